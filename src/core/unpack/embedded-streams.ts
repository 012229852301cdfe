import { pipeline, Readable } from 'node:stream';
import { constants, createInflateRaw, inflateRawSync, inflateSync, type ZlibOptions } from 'node:zlib';
import { limits } from '../limits/index.js';
import { byteSize } from '../text/display.js';
import { type ByteSource, type Member, memorySource, type Unreadable, wholeOf } from './format.js';
import { gzipHeader, ZLIB_LEVELS } from './zlib.js';

/** Bytes of a possible stream that are inflated for trial: other bytes fail within a few of them. */
const TRIAL = 1024;
/** Deflate's. */
const MOST_RATIO = 1032;

/** How streams of one kind begin. */
interface Kind {
  /** Where the next bytes are that look like a beginning; -1 if there are none. */
  next(bytes: Buffer, from: number): number;
  /** How long the header is. */
  header(bytes: Buffer): number;
  /** Inflates a beginning, with its header; throws if it is none. */
  trial(bytes: Buffer, options: ZlibOptions): Buffer;
}

/** Flags that a header of gzip may have (RFC 1952, 2.3.1). */
const GZIP_FLAGS = 0x1f;

const kinds: readonly Kind[] = [
  {
    next(bytes, from) {
      let at = bytes.indexOf(0x78, from);
      while (at >= 0 && !ZLIB_LEVELS.includes(bytes[at + 1] as number)) at = bytes.indexOf(0x78, at + 1);
      return at;
    },
    header: () => 2,
    // Checks the sum at the end of a short stream: two bytes alone are often in others.
    trial: inflateSync,
  },
  {
    next(bytes, from) {
      let at = bytes.indexOf('\x1f\x8b\x08', from, 'latin1');
      while (at >= 0 && (bytes[at + 3] as number) > GZIP_FLAGS) at = bytes.indexOf('\x1f\x8b\x08', at + 1, 'latin1');
      return at;
    },
    header: gzipHeader,
    // Any bytes may follow the stream.
    trial: (bytes, options) => inflateRawSync(bytes.subarray(gzipHeader(bytes)), options),
  },
];

/** Rejects most bytes that begin no block of deflate (RFC 1951, 3.2.3): a trial of them takes much longer. */
function mayBeBlock(bytes: Buffer): boolean {
  const [first = 0, second = 0] = bytes;
  const type = (first >> 1) & 3;
  // Bytes as they are have their number and its complement before them.
  if (type === 0) return bytes.length >= 5 && (bytes.readUInt16LE(1) ^ bytes.readUInt16LE(3)) === 0xffff;
  // More codes than there are.
  if (type === 2) return first >> 3 <= 29 && (second & 31) <= 29;
  return type !== 3;
}

/** Compressed streams among other bytes: after a header, in a program, in a format that Adder does not know. */
export async function* embeddedStreams(given: ByteSource): AsyncIterable<Member | Unreadable> {
  const isSmall = given.size <= limits.innerBytes.value;
  const source = given.isStream && isSmall ? memorySource(await wholeOf(given.chunks())) : given;
  let from = 0;
  for await (const { bytes, base, isLast } of windows(source)) {
    const until = isLast ? bytes.length : bytes.length - TRIAL;
    for (;;) {
      const found = firstIn(bytes, Math.max(0, from - base), until, isLast);
      if (!found) break;
      if (source.isStream) {
        const size = byteSize(limits.innerBytes.value);
        yield { name: '', because: `is larger than ${size}: compressed streams in it were not searched` };
        return;
      }
      const offset = base + found.at;
      const stream = new Stream(source, offset, found.header);
      yield stream.member;
      from = offset + Math.max(1, stream.length);
    }
  }
}

/** Bytes that overlap by a trial. */
async function* windows(source: ByteSource): AsyncIterable<{ bytes: Buffer; base: number; isLast: boolean }> {
  let held = Buffer.alloc(0);
  let base = 0;
  for await (const chunk of source.chunks()) {
    const bytes = held.length === 0 ? Buffer.from(chunk) : Buffer.concat([held, chunk]);
    yield { bytes, base, isLast: base + bytes.length >= source.size };
    const start = Math.max(0, bytes.length - TRIAL);
    held = Buffer.from(bytes.subarray(start));
    base += start;
  }
}

/** A possible stream, and how long its header is. */
interface Found {
  at: number;
  header: number;
}

function firstIn(bytes: Buffer, from: number, until: number, isLast: boolean): Found | undefined {
  let first: Found | undefined;
  for (const kind of kinds) {
    const end = first?.at ?? until;
    for (let at = kind.next(bytes, from); at >= 0 && at < end; at = kind.next(bytes, at + 1)) {
      const part = bytes.subarray(at, at + TRIAL);
      if (!isStream(part, kind, isLast && at + TRIAL >= bytes.length)) continue;
      first = { at, header: kind.header(part) };
      break;
    }
  }
  return first;
}

/** @param isAll whether the bytes end with the source, so that the whole stream must be among them */
function isStream(bytes: Buffer, { header, trial }: Kind, isAll: boolean): boolean {
  if (!mayBeBlock(bytes.subarray(header(bytes)))) return false;
  try {
    const finishFlush = isAll ? constants.Z_FINISH : constants.Z_SYNC_FLUSH;
    return trial(bytes, { finishFlush, maxOutputLength: TRIAL * MOST_RATIO }).length > 0;
  } catch {
    return false;
  }
}

const [FIRST_PIECE, LARGEST_PIECE] = [4096, 256 * 1024];

/** A stream that begins at an offset; its end is known when it was read. */
class Stream {
  /** Compressed bytes, as far as they were read. */
  length = 0;
  readonly member: Member;

  constructor(
    readonly source: ByteSource,
    readonly offset: number,
    readonly header: number,
  ) {
    this.member = { name: `stream@${offset}`, chunks: () => this.#chunks() };
  }

  /** No format says whether the stream goes on elsewhere, so all that can be inflated is all of it. */
  async *#chunks(): AsyncIterable<Uint8Array> {
    // Without its headers, a stream may have anything after its end.
    const transform = createInflateRaw({ chunkSize: LARGEST_PIECE });
    pipeline(Readable.from(this.#pieces(), { objectMode: false }), transform, () => {
      // The reader of the output gets the error.
    });
    try {
      for await (const chunk of transform) yield chunk as Uint8Array;
    } catch {
      // The bytes before are searched.
    }
    this.length = this.header + transform.bytesWritten;
  }

  /** Most streams are short. */
  *#pieces(): Iterable<Uint8Array> {
    const { source } = this;
    for (
      let at = this.offset + this.header, size = FIRST_PIECE;
      at < source.size;
      size = Math.min(2 * size, LARGEST_PIECE)
    ) {
      const piece = source.read(at, size);
      if (piece.length === 0) return;
      yield piece;
      at += piece.length;
    }
  }
}
