import { TextMask } from '../core/mask/text-mask.js';
import { matcherFor } from '../core/search/matcher-for.js';
import type { Files } from './files.js';

/** Paths as reports and receipts show them: relative to the contract's directory, and a value in a name masked. */
export class ShownPaths {
  constructor(
    readonly files: Files,
    readonly root: string,
    readonly values: TextMask,
  ) {}

  /** @param secrets byte strings that may not be shown */
  static hiding(files: Files, root: string, secrets: readonly Uint8Array[]): ShownPaths {
    return new ShownPaths(files, root, new TextMask(matcherFor(secrets)));
  }

  of(path: string): string {
    return this.mask(this.files.shown(path, this.root));
  }

  /** The names of a place in containers. */
  inside(names: readonly string[]): string[] {
    return names.map((name) => this.mask(name));
  }

  mask(text: string): string {
    return this.values.maskPath(text);
  }
}
