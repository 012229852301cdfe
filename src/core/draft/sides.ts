import type { Bundle } from '../contract/contract.js';
import { sideOfPath } from '../files/side.js';
import { bundleCode } from '../lint/reachability.js';
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
    return { side: 'unknown', ...(bundle && { bundle }) };
  }

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
