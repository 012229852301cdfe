import type { Position } from '../text/positions.js';

/**
 * Turns byte offsets into lines and columns while the text streams by once, so that positions are counted only for files
 * that have hits, and a file of one endless line needs no memory.
 */
export class Locator {
  readonly positions: Position[] = [];
  readonly #offsets: readonly number[];
  #next = 0;
  #offset = 0;
  #line = 1;
  #column = 1;

  /** @param offsets in ascending order */
  constructor(offsets: readonly number[]) {
    this.#offsets = offsets;
  }

  get done(): boolean {
    return this.#next >= this.#offsets.length;
  }

  feed(chunk: Uint8Array): void {
    for (const byte of chunk) {
      this.#settle();
      if (byte === 0x0a) {
        this.#line++;
        this.#column = 1;
      } else if ((byte & 0xc0) !== 0x80) this.#column += byte >= 0xf0 ? 2 : 1;
      this.#offset++;
    }
    this.#settle();
  }

  #settle(): void {
    while (this.#offsets[this.#next] === this.#offset) {
      this.positions.push({ line: this.#line, column: this.#column, offset: this.#offset });
      this.#next++;
    }
  }
}
