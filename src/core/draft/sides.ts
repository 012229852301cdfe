import type { Bundle } from '../contract/contract.js';
import { sideOfFile, sideOfPath } from '../files/side.js';
import { bundleCode } from '../lint/reachability.js';
import { once } from '../text/once.js';
import type { DraftBundle } from './bundles.js';
import type { Side } from './evidence.js';
import type { Material } from './material.js';

/** Where files run: by their paths, and in browser bundles by what the entries load. */
export class Sides {
  readonly #loaded = new Map<DraftBundle, ReadonlyMap<string, unknown>>();

  constructor(
    readonly material: Pick<Material, 'modules' | 'resolve'>,
    readonly bundles: readonly DraftBundle[],
  ) {}

  /**
   * The side on which a file runs, and its bundle. A file that the entries of a browser bundle load is browser code, also in a shared
   * directory; a file of its directories that no entry loads may run anywhere.
   */
  of(path: string): { side: Side; bundle?: DraftBundle } {
    const within = (folders: readonly string[]) => folders.some((one) => path === one || path.startsWith(`${one}/`));
    const bundle = this.bundles
      .filter(({ folder }) => path.startsWith(folder))
      .sort((a, b) => b.folder.length - a.folder.length)
      .find(({ code, serverCode }) => within([...code, ...serverCode]));
    const side = sideOfPath(path) ?? (bundle && within(bundle.serverCode) ? 'server' : undefined);
    if (side) return { side, ...(bundle && { bundle }) };
    if (bundle?.runs === 'server') return { side: 'server', bundle };
    const loading = [bundle, ...this.bundles].find(
      (one) => one && one.runs !== 'server' && this.#loadedBy(one).has(path),
    );
    if (loading) return { side: 'browser', bundle: loading };
    return { side: this.#isForServers(path) ? 'server' : 'unknown', ...(bundle && { bundle }) };
  }

  /** Tells whether a file that no browser loads is imported, and by server code alone. */
  #isForServers(path: string, seen: ReadonlySet<string> = new Set()): boolean {
    const importers = [...(this.#importers().get(path) ?? [])].filter((one) => !seen.has(one));
    return (
      importers.length > 0 &&
      importers.every((one) => {
        const file = this.material.modules.get(one);
        const side = file && sideOfFile(file, false);
        return side === 'server' || (side === 'browser' && this.#isForServers(one, new Set([...seen, path])));
      })
    );
  }

  /** Each module's importers. */
  readonly #importers = once(() => {
    const found = new Map<string, Set<string>>();
    const [first] = this.bundles;
    if (!first) return found;
    const bundle = asDeclared(first);
    for (const { path, imports } of this.material.modules.values())
      for (const { specifier } of imports) {
        const target = this.material.resolve(bundle, path, specifier);
        if (target !== undefined) found.set(target, (found.get(target) ?? new Set()).add(path));
      }
    return found;
  });

  #loadedBy(bundle: DraftBundle): ReadonlyMap<string, unknown> {
    const known = this.#loaded.get(bundle);
    if (known) return known;
    const { shipped } = bundleCode(asDeclared(bundle), this.material.modules, this.material.resolve);
    this.#loaded.set(bundle, shipped);
    return shipped;
  }
}

/** The bundle as the contract will have it. */
function asDeclared({ name, runs, toolchain, code, serverCode, output, prefixes }: DraftBundle): Bundle {
  const declared = { name, runs, toolchain, code, serverCode, output, prefixes };
  return { ...declared, entry: [], forbidsMaps: false, layers: new Map(), served: {} };
}
