import { endOf, fill, partOf, type Stretch, stretchFor, type Window } from './stretch.js';

/** Maximum number of retained bytes per stream. */
const MOST_BYTES = 4 * 2 ** 20;

/** Keeps the bytes around hits while a stream is scanned, so that rules read them without a second pass. */
export class Retained {
  /** The first chunk, which is all of most streams and needs no copy. */
  #first: Stretch = { from: 0, bytes: new Uint8Array(0) };
  readonly #stretches: Stretch[] = [];
  /** The longest stretch for each start offset. Most reads match one exactly, and there can be thousands. */
  readonly #byStart = new Map<number, Stretch>();
  /** Stretches that continue after the last chunk. */
  #open: Stretch[] = [];
  #previous: Uint8Array = new Uint8Array(0);
  #bytes = 0;
  /** Where the next chunk begins. */
  #offset = 0;

  /** @param chunk the next chunk, which must not change later @param windows around its hits */
  add(chunk: Uint8Array, windows: readonly Window[]): void {
    const start = this.#offset;
    this.#offset += chunk.length;
    if (start === 0) this.#first = { from: 0, bytes: chunk };
    for (const one of this.#open) fill(one, chunk, start);
    this.#open = this.#open.filter((one) => endOf(one) > this.#offset);
    for (const window of windows) this.#keep(window, chunk, start);
    this.#previous = chunk;
  }

  /** Skips a window that starts before the previous chunk or exceeds the limit: {@link covers} returns false for it. */
  #keep({ from, to }: Window, chunk: Uint8Array, start: number): void {
    const first = Math.max(0, from);
    const before = start - this.#previous.length;
    if (to <= first || first < before || this.#bytes + to - first > MOST_BYTES) return;
    if (to <= endOf(this.#first)) return;
    const known = this.#byStart.get(first) ?? this.#stretches.at(-1);
    if (known && known.from <= first && to <= endOf(known)) return;
    const stretch = stretchFor({ from: first, to });
    this.#bytes += stretch.bytes.length;
    fill(stretch, this.#previous, before);
    fill(stretch, chunk, start);
    this.#stretches.push(stretch);
    this.#byStart.set(first, stretch);
    if (to > this.#offset) this.#open.push(stretch);
  }

  /** Tells whether all bytes of a window are retained, as far as the stream has them. */
  covers({ from, to }: Window): boolean {
    return this.#around(Math.max(0, from), to) !== undefined;
  }

  /** The retained bytes of a window; fewer at the end of the stream. */
  read(from: number, to: number): Uint8Array {
    const found =
      this.#around(from, to) ?? [...this.#stretches, this.#first].find((one) => one.from <= from && from < endOf(one));
    return found ? partOf(found, from, Math.min(to, this.#offset)) : new Uint8Array(0);
  }

  #around(from: number, to: number): Stretch | undefined {
    if (from >= 0 && to <= endOf(this.#first)) return this.#first;
    const known = this.#byStart.get(from);
    return known && to <= endOf(known)
      ? known
      : this.#stretches.findLast((one) => one.from <= from && to <= endOf(one));
  }
}
