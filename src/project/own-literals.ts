import type { Bundle } from '../core/contract/contract.js';
import { layersOf } from '../core/contract/scopes.js';
import { isSkippedDirectory } from '../core/files/directories.js';
import { isSource } from '../core/files/languages.js';
import { within } from '../core/files/within.js';
import { limits } from '../core/limits/index.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { filesNamed } from '../host/walk.js';
import type { Project } from './open.js';

/**
 * Values of other stages that a bundle's own source code contains as text, such as the fallback of a read. `adder lint`
 * reports these at their line; in an artifact, such a text does not show that another stage's value was built in.
 */
export class OwnLiterals {
  readonly #texts = new Map<string, readonly { path: string; text: string }[]>();

  constructor(readonly project: Project) {}

  /** A variable's values in some stages, as far as source code of the bundle contains them. */
  valuesOf(bundle: Bundle, variable: string, stages: readonly Resolution[]): string[] {
    const values = stages.flatMap(({ values: all }) => all.get(variable)?.value ?? []).map(reveal);
    return values.filter((value) => this.placeOf(bundle, value) !== undefined);
  }

  /** The first source file with a text, and its line. */
  placeOf(bundle: Bundle, value: string): string | undefined {
    const found = this.#sources(bundle).find(({ text }) => text.includes(value));
    return found && `${found.path}:${found.text.slice(0, found.text.indexOf(value)).split('\n').length}`;
  }

  /**
   * The bundle's source texts without modules that are a stage's layer, read once and only if needed. A module with an object
   * for each stage ships all of them.
   */
  #sources(bundle: Bundle): readonly { path: string; text: string }[] {
    const known = this.#texts.get(bundle.name);
    if (known) return known;
    const { files, root, contract } = this.project;
    const inCode = within([...bundle.code, ...bundle.serverCode]);
    const layers = new Set(
      layersOf(contract).flatMap((layer) => (layer.kind === 'file' && layer.key !== undefined ? [] : layer.name)),
    );
    const paths = filesNamed(files, root, isSource, isSkippedDirectory, { withLinks: false }).filter(
      (path) => inCode(path) && !layers.has(path),
    );
    const texts = paths.flatMap((path) => {
      const text = files.readIfPossible(files.path.join(root, path), limits.sourceFileBytes.value)?.toString();
      return text === undefined ? [] : [{ path, text }];
    });
    this.#texts.set(bundle.name, texts);
    return texts;
  }
}
