import { MaskingStream } from '../core/mask/masking.js';
import { shownPath } from '../host/paths.js';

/** Paths as reports and receipts show them: relative to the contract's folder, and a value in a name masked. */
export class ShownPaths {
  readonly #masking: MaskingStream;

  /** @param secrets byte strings that may not be shown */
  constructor(
    readonly root: string,
    secrets: readonly Uint8Array[],
  ) {
    this.#masking = new MaskingStream(secrets);
  }

  of(path: string): string {
    return this.mask(shownPath(path, this.root));
  }

  mask(text: string): string {
    return Buffer.concat([this.#masking.push(Buffer.from(text)), this.#masking.end()]).toString();
  }
}
