import { joinedRanges } from '../text/ranges.js';
import { endOf, fill, partOf, type Stretch, stretchFor, type Window } from './stretch.js';

/** Keeps ranges of streamed bytes, so that hits in them can be shown later. */
export class Capture {
  readonly #kept: Stretch[];
  #offset = 0;

  /** @param windows in any order; those that overlap are kept as one */
  constructor(windows: readonly Window[]) {
    const ranges = windows.map(({ from, to }) => ({ start: Math.max(0, from), end: to }));
    this.#kept = joinedRanges(ranges, true).map(({ start, end }) => stretchFor({ from: start, to: end }));
  }

  /** Tells whether all that is kept came by. */
  get isFull(): boolean {
    const last = this.#kept.at(-1);
    return !last || this.#offset >= endOf(last);
  }

  feed(chunk: Uint8Array): void {
    for (const one of this.#kept) fill(one, chunk, this.#offset);
    this.#offset += chunk.length;
  }

  /** The kept bytes of a stretch; fewer at the end of the input. */
  read(from: number, to: number): Uint8Array {
    const found = this.#kept.find((one) => one.from <= from && from < endOf(one));
    return found ? partOf(found, from, Math.min(to, this.#offset)) : new Uint8Array(0);
  }
}
