import { join } from 'node:path';
import type { Bundle } from '../core/contract/contract.js';
import { within } from '../core/files/within.js';
import type { Audience } from '../core/inspect/artifact.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { statOf } from '../host/files.js';
import { shownPath } from '../host/paths.js';
import { type Project, packageFolder } from './open.js';

/** Who gets the files of a bundle's output, and where its tool keeps caches. */
export class BundleOutput {
  /** Absolute paths of existing caches. */
  readonly caches: readonly string[];
  readonly #root: string;
  readonly #isServers: (path: string) => boolean;
  readonly #isCached: (path: string) => boolean;

  constructor(
    { root }: Project,
    readonly bundle: Bundle,
  ) {
    const folder = packageFolder(root, bundle.code[0] ?? '.');
    const inFolder = (paths: readonly string[] = []) =>
      paths.map((path) => (folder === '.' ? path : `${folder}/${path}`));
    const { serverOutput, caches } = toolchainOf(bundle);
    this.#root = root;
    this.#isServers = bundle.runs === 'server' ? () => true : within(bundle.serverOutput ?? inFolder(serverOutput));
    this.#isCached = within(inFolder(caches));
    this.caches = inFolder(caches)
      .map((path) => join(root, path))
      .filter((path) => statOf(path) !== undefined);
  }

  /** @param path absolute */
  audienceOf(path: string): Audience {
    const shown = shownPath(path, this.#root);
    return this.#isCached(shown) ? 'cache' : this.#isServers(shown) ? 'server' : 'browser';
  }
}
