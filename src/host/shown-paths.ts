import { TextMask } from '../core/mask/text-mask.js';
import { matcherFor } from '../core/search/matcher-for.js';
import { shownPath } from './paths.js';

/** Paths as reports and receipts show them: relative to the contract's folder, and a value in a name masked. */
export class ShownPaths {
  constructor(
    readonly root: string,
    readonly values: TextMask,
  ) {}

  /** @param secrets byte strings that may not be shown */
  static hiding(root: string, secrets: readonly Uint8Array[]): ShownPaths {
    return new ShownPaths(root, new TextMask(matcherFor(secrets)));
  }

  of(path: string): string {
    return this.mask(shownPath(path, this.root));
  }

  /** The names of a place in containers. */
  inside(names: readonly string[]): string[] {
    return names.map((name) => this.mask(name));
  }

  mask(text: string): string {
    return this.values.mask(text);
  }
}
