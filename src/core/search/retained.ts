/** So much of one stream is retained at most. */
const MOST_BYTES = 8 * 2 ** 20;

interface Stretch {
  from: number;
  bytes: Uint8Array;
}

/**
 * The chunks of a stream in which something was found, with those before and after, so that most hits are examined without streaming the
 * bytes again. Chunks are kept as they are, not copied.
 */
export class Retained {
  /** By their offset. */
  readonly #stretches: Stretch[] = [];
  #previous: Stretch | undefined;
  #isNextKept = false;
  #bytes = 0;
  #offset = 0;

  /** @param chunk the next one, which nobody changes @param hasHits whether something was found that ends in it */
  add(chunk: Uint8Array, hasHits: boolean): void {
    const stretch = { from: this.#offset, bytes: chunk };
    this.#offset += chunk.length;
    if (hasHits && this.#previous) this.#keep(this.#previous);
    if (hasHits || this.#isNextKept) this.#keep(stretch);
    this.#previous = hasHits || this.#isNextKept ? undefined : stretch;
    this.#isNextKept = hasHits;
  }

  #keep(stretch: Stretch): void {
    if (this.#bytes + stretch.bytes.length > MOST_BYTES) return;
    this.#bytes += stretch.bytes.length;
    this.#stretches.push(stretch);
  }

  /** Whether all bytes of a window were retained, as far as the stream has them. */
  covers({ from, to }: { from: number; to: number }): boolean {
    const end = Math.min(to, this.#offset);
    let at = Math.max(0, from);
    for (const { from: start, bytes } of this.#stretches)
      if (start <= at) at = Math.max(at, Math.min(end, start + bytes.length));
    return at >= end;
  }

  /** The retained bytes of a window, from its beginning on; fewer at the end of the stream. */
  read(from: number, to: number): Uint8Array {
    const pieces: Uint8Array[] = [];
    let at = from;
    for (const { from: start, bytes } of this.#stretches) {
      if (at >= to) break;
      if (start > at || start + bytes.length <= at) continue;
      const piece = bytes.subarray(at - start, Math.min(to, start + bytes.length) - start);
      pieces.push(piece);
      at += piece.length;
    }
    return pieces.length === 1 ? (pieces[0] as Uint8Array) : Buffer.concat(pieces);
  }
}
