import { escapeControls } from '../text/display.js';
import { MASK } from './secret.js';

/**
 * Masks known secrets and escapes control characters in every text that leaves Adder. Printers do both as well; this is the
 * safety net for output that forgets it.
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

  /** Lets through a value that the user asked for. */
  reveal(text: string): void {
    this.#revealed.add(text.trim());
  }

  /** Masks and escapes a text for a terminal, a file or another program. */
  clean(text: string): string {
    return escapeControls(this.mask(text));
  }

  /** Masks a text and keeps its control characters. */
  mask(text: string): string {
    let masked = text;
    for (const secret of this.#secrets)
      if (masked.includes(secret) && ![...this.#revealed].some((one) => one.includes(secret)))
        masked = masked.replaceAll(secret, MASK);
    return masked;
  }
}
