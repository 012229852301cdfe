import type { Bundle } from '../core/contract/contract.js';
import { within } from '../core/files/within.js';
import type { Audience } from '../core/inspect/artifact.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { type Project, packageFolder } from './open.js';

/** Who gets the files of a bundle's output, and where its tool keeps caches. */
export class BundleOutput {
  /** Absolute paths of existing caches. */
  readonly caches: readonly string[];
  readonly #project: Project;
  readonly #isServers: (path: string) => boolean;
  readonly #isCached: (path: string) => boolean;

  constructor(
    project: Project,
    readonly bundle: Bundle,
  ) {
    const folder = packageFolder(project, bundle.code[0] ?? '.');
    const inFolder = (paths: readonly string[] = []) =>
      paths.map((path) => (folder === '.' ? path : `${folder}/${path}`));
    const { serverOutput, caches } = toolchainOf(bundle);
    this.#project = project;
    this.#isServers = bundle.runs === 'server' ? () => true : within(bundle.serverOutput ?? inFolder(serverOutput));
    this.#isCached = within(inFolder(caches));
    this.caches = inFolder(caches)
      .map((path) => project.files.path.join(project.root, path))
      .filter((path) => project.files.exists(path));
  }

  /** @param path absolute */
  audienceOf(path: string): Audience {
    const { files, root } = this.#project;
    const shown = files.shown(path, root);
    return this.#isCached(shown) ? 'cache' : this.#isServers(shown) ? 'server' : 'browser';
  }
}
