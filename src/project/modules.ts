import type { Bundle } from '../core/contract/contract.js';
import { isDart, isPage } from '../core/files/languages.js';
import type { SourceText } from '../core/lint/model.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { withSlashes } from '../host/files.js';
import { ModuleResolver } from '../host/modules.js';
import type { Rooted } from '../host/state.js';

/** Finds the project's own files that module specifiers mean. Each answer is kept. */
export class ProjectModules {
  readonly #resolvers = new Map<string, ModuleResolver>();
  readonly #known = new Map<string, string | undefined>();

  /** @param sources by their paths from the root, with `/` */
  constructor(
    readonly at: Rooted,
    readonly sources: ReadonlyMap<string, SourceText>,
  ) {}

  /** @param from the importing file's path from the root, with `/`, as the result is */
  resolve(bundle: Bundle, from: string, specifier: string): string | undefined {
    const key = `${bundle.name}\0${this.#directoryOf(from)}\0${specifier}`;
    if (this.#known.has(key)) return this.#known.get(key);
    const found = this.#find(bundle, from, specifier);
    this.#known.set(key, found);
    return found;
  }

  #find(bundle: Bundle, from: string, specifier: string): string | undefined {
    if (isDart(from)) return this.#dart(bundle, from, specifier);
    const { files, root } = this.at;
    // A page names its scripts from the root of the site, which is the page's own directory.
    const target = isPage(from) ? `./${specifier.replace(/^\.?\//, '')}` : specifier;
    const path = this.#resolver(bundle).resolve(files.path.join(root, from), target);
    return path === undefined ? undefined : this.#own(withSlashes(files.path.relative(root, path), files.path));
  }

  /** Dart language specification, 20.1: relative URIs, and `package:` URIs, whose files are in the package's `lib`. */
  #dart({ code }: Bundle, from: string, specifier: string): string | undefined {
    const inPackage = /^package:[^/]+\/(.+)$/.exec(specifier)?.[1];
    const relative = this.at.files.path.posix.join(this.#directoryOf(from), specifier);
    const candidates = inPackage === undefined ? [relative] : code.map((path) => `${path}/${inPackage}`);
    return candidates.find((path) => this.sources.has(path));
  }

  #own(path: string): string | undefined {
    return this.sources.has(path) ? path : undefined;
  }

  #directoryOf(path: string): string {
    return this.at.files.path.posix.dirname(path);
  }

  #resolver(bundle: Bundle): ModuleResolver {
    const known = this.#resolvers.get(bundle.name);
    if (known) return known;
    const { files, root } = this.at;
    const [code = ''] = bundle.code;
    const source = files.path.join(root, code, code.endsWith('src') ? '' : 'src');
    const aliases = Object.entries(toolchainOf(bundle).aliases ?? {});
    const made = new ModuleResolver(
      Object.fromEntries(aliases.map(([name, directory]) => [name, files.path.join(source, directory)])),
    );
    this.#resolvers.set(bundle.name, made);
    return made;
  }
}
