/** Bytes that can be read at any place, and from beginning to end as often as needed. */
export interface ByteSource {
  size: number;
  /** Tells whether only its beginning can be read at any place. */
  isStream?: true;
  /** Facts about a stream that was read once. */
  glimpse?: Glimpse;
  /** Shorter at the end of the input. */
  read(offset: number, length: number): Uint8Array;
  /** All bytes in chunks, which must not be changed. */
  chunks(): AsyncIterable<Uint8Array> | Iterable<Uint8Array>;
}

/** Bytes in memory. */
export function memorySource(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.length,
    read: (offset, length) => bytes.subarray(offset, offset + length),
    chunks: () => [bytes],
  };
}

/** The byte range of a container that belongs to a member. */
export interface Stored {
  offset: number;
  length: number;
}

/** One thing in a container. */
export interface Member {
  name: string;
  /** Its byte range in the container, compressed or not: hits there belong to the member. */
  stored?: Stored;
  /** URL of the original file (source maps only). */
  address?: string;
  /**
   * Its bytes, as often as needed, in chunks which must not be changed.
   * @throws if they cannot be read completely; what came before is correct
   */
  chunks(): AsyncIterable<Uint8Array>;
}

/** A member, or all of a container, that cannot be read, and why, as a phrase after its name. */
export interface Unreadable {
  name: string;
  because: string;
}

/** As much of some bytes as tells their format. */
export interface Glimpse {
  /** The first {@link HEAD_BYTES}, or all if there are fewer. */
  head: Uint8Array;
  /** The last {@link TAIL_BYTES}; of a stream whose end has not come, nothing. */
  tail: Uint8Array;
  /** Samples from all over, for what has no mark. */
  samples: readonly Uint8Array[];
  size: number;
}

/** One container format. One file a format, one line in index.ts. */
export interface Format {
  /** The usual name of the format. */
  name: string;
  /** Tells whether its members can be read as a stream, so that it need not be in memory if it is a member itself. */
  streams?: true;
  /** Tells whether its raw bytes contain its content in a searched encoding: then it is unpacked only after a hit. */
  isText?: true;
  /** Possible first bytes of its files; absent if any byte is possible. Other files skip the format. */
  firstBytes?: readonly number[];
  /**
   * Recognised by bytes, not by name, if the format has a mark.
   * @param head the first {@link HEAD_BYTES} @param name for formats without a mark @param glimpse for formats whose mark
   *   is not at the beginning
   */
  recognise(head: Uint8Array, name: string, glimpse: Glimpse): boolean;
  /** Starts what takes long before the members of a source are asked for. It may turn out to be no such container. */
  begin?(source: ByteSource): void;
  /**
   * @param name of the container, for members that are named after it
   * @throws if the container itself is damaged, not only a member
   */
  members(source: ByteSource, name: string): AsyncIterable<Member | Unreadable>;
}

/** Bytes read from the start of a file to recognise its format. */
export const HEAD_BYTES = 512;

/** The end record of a zip has its mark among the last so many bytes (a comment is 65,535 at most). */
export const TAIL_BYTES = 22 + 65_535;

/** Bytes of each sample that measures the density of a file. */
export const SAMPLE_BYTES = 16 * 1024;

/** Looks at bytes that can be read at any place; what is not asked for is not read. */
export function glimpseOf(source: Pick<ByteSource, 'size' | 'read'>): Glimpse {
  return new SourceGlimpse(source);
}

/** A class and no closures: one is made for every file. */
class SourceGlimpse implements Glimpse {
  readonly size: number;
  #head: Uint8Array | undefined;
  #tail: Uint8Array | undefined;
  #samples: readonly Uint8Array[] | undefined;

  constructor(readonly source: Pick<ByteSource, 'size' | 'read'>) {
    this.size = source.size;
  }

  get head(): Uint8Array {
    this.#head ??= this.source.read(0, HEAD_BYTES);
    return this.#head;
  }

  get tail(): Uint8Array {
    this.#tail ??= this.#last(TAIL_BYTES);
    return this.#tail;
  }

  get samples(): readonly Uint8Array[] {
    const { source, size } = this;
    this.#samples ??=
      size <= 3 * SAMPLE_BYTES
        ? [source.read(0, size)]
        : [
            source.read(0, SAMPLE_BYTES),
            source.read(Math.floor((size - SAMPLE_BYTES) / 2), SAMPLE_BYTES),
            this.#last(SAMPLE_BYTES),
          ];
    return this.#samples;
  }

  #last(length: number): Uint8Array {
    return this.source.read(Math.max(0, this.size - length), Math.min(this.size, length));
  }
}

/** Looks at bytes that are in memory. */
export function glimpseOfBytes(bytes: Uint8Array): Glimpse {
  return glimpseOf({
    size: bytes.length,
    read: (offset, length) => bytes.subarray(offset, offset + length),
  });
}

/** The beginning alone, of bytes that stream by. */
export function glimpseOfHead(head: Uint8Array): Glimpse {
  return { head: head.subarray(0, HEAD_BYTES), tail: nothing, samples: [], size: Number.POSITIVE_INFINITY };
}

const nothing = new Uint8Array(0);

/** Bytes that tell text from other data: random bytes have six times the control characters that are allowed. */
const ENOUGH = 256;

/**
 * Tells whether bytes are no text, by their many control characters; UTF-16 counts as no text. A large file is tested at equal
 * distances, because every file is tested.
 */
export function isBinary(bytes: Uint8Array): boolean {
  // An odd distance, as in UTF-16 every second byte is alike.
  const step = Math.floor(bytes.length / ENOUGH) | 1;
  let controls = 0;
  let seen = 0;
  for (let at = 0; at < bytes.length; at += step, seen++) {
    const byte = bytes[at] as number;
    if (byte < 9 || (byte > 13 && byte < 32 && byte !== 27)) controls++;
  }
  return controls > seen / 50;
}

export function isUnreadable(one: Member | Unreadable): one is Unreadable {
  return 'because' in one;
}

/** Tells whether bytes are at an offset; a text has one character per byte. Called for every file and format. */
export function hasMark(head: Uint8Array, mark: readonly number[] | string, at = 0): boolean {
  for (let index = 0; index < mark.length; index++) {
    const byte = typeof mark === 'string' ? mark.charCodeAt(index) : mark[index];
    if (head[at + index] !== byte) return false;
  }
  return true;
}

/** Pieces as one. */
export async function wholeOf(pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): Promise<Buffer> {
  const all: Uint8Array[] = [];
  for await (const piece of pieces) all.push(piece);
  return Buffer.concat(all);
}

const PIECE = 256 * 1024;

/** A stretch of a source in chunks; fewer bytes if it ends early. */
export function* piecesOf(source: Pick<ByteSource, 'read'>, start: number, end: number): Iterable<Uint8Array> {
  for (let at = start; at < end; ) {
    const piece = source.read(at, Math.min(PIECE, end - at));
    if (piece.length === 0) return;
    yield piece;
    at += piece.length;
  }
}
