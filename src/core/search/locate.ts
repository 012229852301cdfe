import { LINE_FEED, type Position, utf16Length } from '../text/positions.js';

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
    let at = 0;
    for (;;) {
      const offset = this.#offsets[this.#next];
      const end = offset === undefined ? chunk.length : Math.min(chunk.length, offset - this.#offset);
      this.#advance(chunk, at, end);
      if (offset === undefined || offset - this.#offset > chunk.length) break;
      this.positions.push({ line: this.#line, column: this.#column, offset });
      this.#next++;
      at = end;
    }
    this.#offset += chunk.length;
  }

  #advance(chunk: Uint8Array, from: number, to: number): void {
    let start = from;
    for (let feed = chunk.indexOf(LINE_FEED, from); feed >= 0 && feed < to; feed = chunk.indexOf(LINE_FEED, feed + 1)) {
      this.#line++;
      this.#column = 1;
      start = feed + 1;
    }
    this.#column += utf16Length(chunk, start, to);
  }
}
