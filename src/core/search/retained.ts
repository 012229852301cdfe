/** So much of one stream is retained at most. */
const MOST_BYTES = 4 * 2 ** 20;

/** A range of bytes. `to` is excluded. */
export interface Window {
  from: number;
  to: number;
}

interface Stretch {
  from: number;
  bytes: Uint8Array;
}

/** The bytes around hits in a stream, so that most are examined without streaming it again. */
export class Retained {
  readonly #stretches: Stretch[] = [];
  /** The longest by its beginning: most are read as they were kept, and there may be thousands. */
  readonly #byStart = new Map<number, Stretch>();
  /** Those that go on after the last chunk. */
  #open: Stretch[] = [];
  #previous: Uint8Array = new Uint8Array(0);
  #bytes = 0;
  /** Where the next chunk begins. */
  #offset = 0;

  /** @param chunk the next one, which nobody changes @param windows around what was found in it */
  add(chunk: Uint8Array, windows: readonly Window[]): void {
    const start = this.#offset;
    this.#offset += chunk.length;
    for (const one of this.#open) fill(one, chunk, start);
    this.#open = this.#open.filter((one) => endOf(one) > this.#offset);
    for (const window of windows) this.#keep(window, chunk, start);
    this.#previous = chunk;
  }

  /** What begins before the previous chunk, and what would be too much, is not kept; {@link covers} says so. */
  #keep({ from, to }: Window, chunk: Uint8Array, start: number): void {
    const first = Math.max(0, from);
    const before = start - this.#previous.length;
    if (to <= first || first < before || this.#bytes + to - first > MOST_BYTES) return;
    const known = this.#byStart.get(first) ?? this.#stretches.at(-1);
    if (known && known.from <= first && to <= endOf(known)) return;
    const stretch = { from: first, bytes: new Uint8Array(to - first) };
    this.#bytes += stretch.bytes.length;
    fill(stretch, this.#previous, before);
    fill(stretch, chunk, start);
    this.#stretches.push(stretch);
    this.#byStart.set(first, stretch);
    if (to > this.#offset) this.#open.push(stretch);
  }

  /** Whether all bytes of a window are retained, as far as the stream has them. */
  covers({ from, to }: Window): boolean {
    return this.#around(Math.max(0, from), to) !== undefined;
  }

  /** The retained bytes of a window; fewer at the end of the stream. */
  read(from: number, to: number): Uint8Array {
    const found = this.#around(from, to) ?? this.#stretches.find((one) => one.from <= from && from < endOf(one));
    if (!found) return new Uint8Array(0);
    return found.bytes.subarray(from - found.from, Math.max(from, Math.min(to, this.#offset)) - found.from);
  }

  #around(from: number, to: number): Stretch | undefined {
    const known = this.#byStart.get(from);
    return known && to <= endOf(known)
      ? known
      : this.#stretches.findLast((one) => one.from <= from && to <= endOf(one));
  }
}

function endOf({ from, bytes }: Stretch): number {
  return from + bytes.length;
}

/** Copies what a chunk has of a stretch. @param at offset of the chunk */
function fill({ from, bytes }: Stretch, chunk: Uint8Array, at: number): void {
  const first = Math.max(from, at);
  const end = Math.min(from + bytes.length, at + chunk.length);
  if (first < end) bytes.set(chunk.subarray(first - at, end - at), first - from);
}
