import { join } from 'node:path';
import type { Bundle } from '../core/contract/contract.js';
import { within } from '../core/files/within.js';
import type { Part } from '../core/inspect/rules.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { statOf } from '../host/files.js';
import { shownPath } from '../host/paths.js';
import { type Project, packageFolder } from './open.js';

/** Which files of a build go to the browser, which stay on the server, and where the tool keeps what it made for the next build. */
export class BuildParts {
  /** Absolute paths of the caches that are there. */
  readonly caches: readonly string[];
  readonly #root: string;
  readonly #isServers: (path: string) => boolean;
  readonly #isCached: (path: string) => boolean;

  constructor({ root }: Project, bundle: Bundle) {
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
  of(path: string): Part {
    const shown = shownPath(path, this.#root);
    return this.#isCached(shown) ? 'cache' : this.#isServers(shown) ? 'server' : 'browser';
  }
}
