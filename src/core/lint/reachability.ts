import type { Bundle } from '../contract/contract.js';
import { isPage, scriptLanguage } from '../files/languages.js';
import { type FileSide, isKeptByBuild, sideOfFile } from '../files/side.js';
import { within } from '../files/within.js';
import { isIn, type Range } from '../text/ranges.js';
import { toolchainOf } from '../toolchains/index.js';
import { entriesOf } from './entries.js';
import { shippedFrom } from './graph.js';
import { LoadedImports } from './loaded-imports.js';
import type { BundleCode, SourceText } from './model.js';
import { serverParts } from './server-parts.js';

/** Answers which of the project's files a module specifier means, or undefined for packages and missing files. */
export type ResolveModule = (bundle: Bundle, from: string, specifier: string) => string | undefined;

/** Follows a bundle's imports from its entries: which files reach the browser, and which stay on the server. */
export function bundleCode(
  bundle: Bundle,
  files: ReadonlyMap<string, SourceText>,
  resolveModule: ResolveModule,
): BundleCode {
  const code = new CodeOfBundle(bundle, files, resolveModule);
  return bundle.runs === 'server' ? code.ofServer() : code.ofBrowser();
}

class CodeOfBundle {
  readonly #isServerCode: (path: string) => boolean;
  readonly #own: readonly SourceText[];
  /** Filled as imports are followed. */
  readonly #serverParts = new Map<string, readonly Range[]>();

  constructor(
    readonly bundle: Bundle,
    readonly files: ReadonlyMap<string, SourceText>,
    readonly resolveModule: ResolveModule,
  ) {
    const inCode = within(bundle.code);
    this.#isServerCode = within(bundle.serverCode);
    this.#own = [...files.values()].filter(({ path }) => inCode(path) || this.#isServerCode(path));
  }

  ofServer(): BundleCode {
    const onServer = this.#own.filter((file) => /^(browser|server)$/.test(this.#sideOf(file)));
    return {
      bundle: this.bundle,
      serverParts: this.#serverParts,
      shipped: new Map(),
      copied: new Set(),
      onServer: new Set(onServer.map(({ path }) => path)),
    };
  }

  ofBrowser(): BundleCode {
    const { bundlesStarted } = toolchainOf(this.bundle);
    const { chains: shipped, copied } = shippedFrom(
      this.#entries(),
      {
        importsOf: (path) => this.#loadedImports(this.files.get(path)),
        resolve: (from, specifier) => this.#resolve(from, specifier),
        isCopied: ({ startedAs }) => startedAs !== undefined && bundlesStarted?.includes(startedAs) === false,
      },
      (path) => this.#isNeverShipped(this.files.get(path)),
    );
    for (const path of this.#served()) {
      if (!shipped.has(path)) shipped.set(path, [path]);
      copied.add(path);
    }
    const onServer = this.#own.filter((file) => this.#sideOf(file) === 'server' && !shipped.has(file.path));
    return {
      bundle: this.bundle,
      serverParts: this.#serverParts,
      shipped,
      copied,
      onServer: new Set(onServer.map(({ path }) => path)),
    };
  }

  /** Scripts in directories that the tool copies into the output, beside the bundle's code. */
  #served(): string[] {
    const { copies = [] } = toolchainOf(this.bundle);
    const beside = this.bundle.code.map((path) => path.slice(0, path.lastIndexOf('/') + 1));
    const isCopied = within(beside.flatMap((folder) => copies.map((one) => folder + one)));
    return [...this.files.values()]
      .filter(({ path, reads }) => reads.length > 0 && scriptLanguage(path) && isCopied(path))
      .map(({ path }) => path);
  }

  #entries(): string[] {
    const browserFiles = this.#own.filter((file) => this.#sideOf(file) === 'browser');
    const loaded = browserFiles
      .filter(({ path }) => isPage(path))
      .flatMap(({ path, imports }) => imports.flatMap(({ specifier }) => this.#resolve(path, specifier) ?? []));
    return entriesOf(this.bundle, browserFiles, loaded).filter((path) => this.files.has(path));
  }

  /** Imports that load a module: not those in parts that run on the server, nor type-only imports of server code. */
  #loadedImports(file: SourceText | undefined): SourceText['imports'] {
    if (!file) return [];
    const parts = serverParts(file, toolchainOf(this.bundle));
    this.#serverParts.set(file.path, parts);
    const loaded = new LoadedImports(file, parts);
    return file.imports.filter(({ specifier, start }) => {
      if (isIn(parts, start)) return false;
      if (parts.length > 0) return loaded.has(start);
      const path = this.#resolve(file.path, specifier);
      const target = path === undefined ? undefined : this.files.get(path);
      const isServer = target !== undefined && this.#sideOf(target) === 'server';
      return !isServer || loaded.has(start);
    });
  }

  #sideOf(file: SourceText): FileSide {
    return sideOfFile(file, this.#isServerCode(file.path));
  }

  #resolve(from: string, specifier: string): string | undefined {
    return this.resolveModule(this.bundle, from, specifier);
  }

  /** No page loads tests and build files, and a framework with a server refuses files with a server mark. A bundler takes them. */
  #isNeverShipped(file: SourceText | undefined): boolean {
    if (!file) return true;
    const side = sideOfFile(file, false);
    const { rendersOnServer, server, name } = toolchainOf(this.bundle);
    const knowsServers = rendersOnServer === true || server !== undefined || name === 'other';
    return side === 'test' || side === 'build' || (knowsServers && isKeptByBuild(file));
  }
}
