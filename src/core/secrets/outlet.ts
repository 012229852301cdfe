import { MASK } from '../secret.js';
import { escapeControls } from '../text/display.js';

/**
 * What every text passes on its way out of Adder: known secrets are masked, control characters are escaped. Printers do
 * both where they know what they print; this is the net below them, so that no new output can forget it.
 */
export class Outlet {
  readonly #secrets = new Set<string>();
  readonly #revealed = new Set<string>();

  /** Adds texts that no output may contain. */
  protect(texts: Iterable<string>): void {
    for (const text of texts) {
      this.#secrets.add(text);
      const inJson = JSON.stringify(text).slice(1, -1);
      if (inJson !== text) this.#secrets.add(inJson);
    }
  }

  /** The user asked for this value. */
  reveal(text: string): void {
    this.#revealed.add(text.trim());
  }

  /** A text for a terminal, a file or another program. */
  clean(text: string): string {
    return escapeControls(this.mask(text));
  }

  /** A text of which control characters are part, masked. */
  mask(text: string): string {
    let masked = text;
    for (const secret of this.#secrets)
      if (masked.includes(secret) && ![...this.#revealed].some((one) => one.includes(secret)))
        masked = masked.replaceAll(secret, MASK);
    return masked;
  }
}
