import { endOf, fill, partOf, type Stretch, stretchFor, type Window } from './stretch.js';

/** Keeps ranges of streamed bytes, so that hits in them can be shown later. */
export class Capture {
  readonly #kept: Stretch[];
  #offset = 0;

  /** @param windows in any order; those that overlap are kept as one */
  constructor(windows: readonly Window[]) {
    const merged: Window[] = [];
    for (const { from, to } of [...windows].sort((a, b) => a.from - b.from)) {
      const last = merged.at(-1);
      if (last && from <= last.to) last.to = Math.max(last.to, to);
      else merged.push({ from: Math.max(0, from), to });
    }
    this.#kept = merged.map(stretchFor);
  }

  /** Whether all that is kept came by. */
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
