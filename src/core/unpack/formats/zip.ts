import type { Entry, RandomAccessReader, ZipFile } from 'yauzl';
import type { Range } from '../../text/ranges.js';
import { Compressed } from '../decompress.js';
import {
  type ByteSource,
  type Format,
  type Glimpse,
  hasMark,
  isBinary,
  type Member,
  piecesOf,
  type Unreadable,
} from '../format.js';
import { zlib } from '../zlib.js';

/** Stored and deflated members; others (APPNOTE, 4.4.5) need programs of their own. */
const [STORED, DEFLATED] = [0, 8];

const LOCAL = 'PK\x03\x04';
const END = 'PK\x05\x06';
const END_BYTES = 22;

/**
 * Zip (PKWARE's APPNOTE.TXT) under its many names: app packages, extensions, libraries, archives in archives; also after
 * something else, as in programs that unpack themselves, browser extensions and scripts. Members that the directory leaves
 * out are found by their own headers.
 */
export const zip: Format = {
  name: 'zip',
  recognise: (head, _, glimpse) => hasMark(head, LOCAL) || hasMark(head, END) || hasEndRecord(head, glimpse),
  async *members(source) {
    const end = endRecord(source);
    const covered: Range[] = [];
    let damage: unknown;
    if (end) {
      try {
        yield* begun(listed(end, source, covered));
      } catch (error) {
        damage = error;
      }
    }
    yield* unlisted(source, end?.directory ?? source.size, covered);
    if (!end || damage) throw new Error('no directory');
  },
};

/** The archive's position in its source, according to its end record. */
interface Ending {
  /** The archive's own first byte: offsets in it count from there. */
  base: number;
  /** The directory's offset. */
  directory: number;
  /** Behind the record and its comment. */
  end: number;
}

/** The mark of an end record among the last bytes of a binary file. */
function hasEndRecord(head: Uint8Array, glimpse: Glimpse): boolean {
  const { size } = glimpse;
  if (size < END_BYTES || size === Number.POSITIVE_INFINITY) return false;
  const isArchive = isBinary(head) || isBinary(glimpse.tail.subarray(-END_BYTES));
  return isArchive && lastEnd(glimpse.tail) >= 0;
}

/** Offset of the last end record, or -1 if there is none. */
function lastEnd(bytes: Uint8Array): number {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const at = buffer.lastIndexOf(END, buffer.length - END_BYTES, 'latin1');
  // The words alone, as programs that write archives have them, are no record: its disk numbers are small.
  return at >= 0 && buffer.readUInt16LE(at + 4) < 256 && buffer.readUInt16LE(at + 6) < 256 ? at : -1;
}

function endRecord(source: ByteSource): Ending | undefined {
  const from = Math.max(0, source.size - END_BYTES - 65_535);
  const tail = Buffer.from(source.read(from, source.size - from));
  const at = lastEnd(tail);
  if (at < 0) return undefined;
  const [size, offset] = [tail.readUInt32LE(at + 12), tail.readUInt32LE(at + 16)];
  const end = from + at + END_BYTES + tail.readUInt16LE(at + 20);
  // In a zip64 archive, another record has the numbers.
  if (offset === 0xffffffff || size === 0xffffffff) return { base: 0, directory: from + at, end };
  const base = Math.max(0, from + at - size - offset);
  return { base, directory: base + offset, end: Math.min(end, source.size) };
}

async function* listed(
  { base, end }: Ending,
  whole: ByteSource,
  covered: Range[],
): AsyncIterable<ListedMember | Unreadable> {
  // Loaded with the first archive.
  const yauzl = await import('yauzl');
  const source = base === 0 && end === whole.size ? whole : partOf(whole, base, end);
  const file = await yauzl.fromRandomAccessReaderPromise(readerOf(source, yauzl), source.size, {
    autoClose: false,
    decodeStrings: false,
    // Wrong sizes end at our own limits and checksums; the other members are still read.
    validateEntrySizes: false,
  });
  for await (const given of file.eachEntry()) {
    const entry = given as Entry;
    const member = await memberOf(file, entry, source, base);
    const start = base + entry.relativeOffsetOfLocalHeader;
    const { offset = start + 30 + entry.fileNameLength + entry.extraFieldLength } =
      (member as Member | undefined)?.stored ?? {};
    covered.push({ start, end: offset + entry.compressedSize });
    if (member) yield member;
  }
}

type ListedMember = Member & { begin?(): void };

/** Lets each member begin to be inflated while the one before it is searched. */
async function* begun(members: AsyncIterable<ListedMember | Unreadable>): AsyncIterable<Member | Unreadable> {
  let last: Member | Unreadable | undefined;
  let damage: unknown;
  try {
    for await (const next of members) {
      if ('begin' in next) next.begin?.();
      if (last) yield last;
      last = next;
    }
  } catch (error) {
    damage = error;
  }
  if (last) yield last;
  if (damage) throw damage;
}

/** A stretch of a source as one of its own. */
function partOf(source: ByteSource, start: number, end: number): ByteSource {
  const size = end - start;
  return {
    size,
    read: (offset, length) => source.read(start + offset, Math.max(0, Math.min(length, size - offset))),
    chunks: () => piecesOf(source, start, end),
  };
}

/** @param base of the archive in what holds it */
async function memberOf(
  file: ZipFile,
  entry: Entry,
  source: ByteSource,
  base: number,
): Promise<ListedMember | Unreadable | undefined> {
  // Names come as bytes, and nothing is ever written to where they point.
  const name = decodedName(entry.fileName as unknown as Buffer);
  // A directory entry has no data; with data it is a file.
  if (name.endsWith('/') && entry.compressedSize === 0) return undefined;
  if (entry.isEncrypted()) return { name, because: 'is encrypted' };
  const { compressionMethod: method, compressedSize } = entry;
  if (method !== STORED && method !== DEFLATED)
    return { name, because: `is compressed by method ${method}, which Adder does not decompress` };
  try {
    const { fileDataStart: offset } = await file.readLocalFileHeaderPromise(entry, { minimal: true });
    const stored = { offset: base + offset, length: compressedSize };
    const content = contentOf(source, offset, compressedSize, method, entry.uncompressedSize);
    return { name, stored, begin: () => content.begin(), chunks: () => checked(content.chunks(), entry) };
  } catch {
    return { name, because: 'is damaged' };
  }
}

/** UTF-8 if valid. Otherwise Latin-1, which is close to the format's original code page. */
function decodedName(bytes: Buffer): string {
  const text = bytes.toString();
  return (text.includes('\ufffd') ? bytes.toString('latin1') : text).replaceAll('\\', '/');
}

/** @throws if the checksum differs from the entry's */
async function* checked(chunks: AsyncIterable<Uint8Array>, entry: Entry): AsyncIterable<Uint8Array> {
  const { crc32 } = zlib;
  let sum = 0;
  for await (const chunk of chunks) {
    sum = crc32(chunk, sum);
    yield chunk;
  }
  if (sum !== entry.crc32) throw new Error('another checksum');
}

/** @param inflatedSize if something says so */
function contentOf(
  source: ByteSource,
  offset: number,
  size: number,
  method: number,
  inflatedSize?: number,
): Pick<Compressed, 'begin' | 'chunks'> {
  const pieces = () => piecesOf(source, offset, offset + size);
  if (method === STORED)
    return {
      begin() {},
      chunks: async function* () {
        yield* pieces();
      },
    };
  const { createInflateRaw, inflateRaw, inflateRawSync } = zlib;
  const codec = { whole: inflateRawSync, beside: inflateRaw, stream: createInflateRaw };
  return new Compressed(pieces, size, codec, inflatedSize);
}

/** Members before the directory that it does not list, by their local headers (APPNOTE, 4.3.7). */
async function* unlisted(source: ByteSource, end: number, covered: Range[]): AsyncIterable<Member | Unreadable> {
  const taken = covered.sort((a, b) => a.start - b.start);
  let from = 0;
  for (const { start, end: next } of [...taken, { start: end, end }]) {
    // The gap between two members can hold signatures, names or data descriptors.
    if (start - from >= LEAST_GAP) yield* headersIn(source, from, start);
    from = Math.max(from, next);
  }
}

/** A local header with a name, and content that is worth its header. */
const LEAST_GAP = 32;

const WINDOW = 256 * 1024;

async function* headersIn(source: ByteSource, start: number, end: number): AsyncIterable<Member | Unreadable> {
  for (let from = start; from < end; from += WINDOW) {
    const bytes = Buffer.from(source.read(from, Math.min(WINDOW + LOCAL.length - 1, end - from)));
    for (let at = bytes.indexOf(LOCAL, 0, 'latin1'); at >= 0; at = bytes.indexOf(LOCAL, at + 1, 'latin1')) {
      const member = unlistedAt(source, from + at, end);
      if (member) yield member;
    }
  }
}

function unlistedAt(source: ByteSource, at: number, end: number): Member | Unreadable | undefined {
  const header = Buffer.from(source.read(at, 30));
  if (header.length < 30) return undefined;
  const [version, flags, method] = [header.readUInt16LE(4), header.readUInt16LE(6), header.readUInt16LE(8)];
  const [size, nameLength, extraLength] = [header.readUInt32LE(18), header.readUInt16LE(26), header.readUInt16LE(28)];
  const offset = at + 30 + nameLength + extraLength;
  // Programs that write archives contain the mark alone, which is not a header.
  if ((version & 0xff) > 63 || nameLength === 0 || nameLength > 4096 || offset > end) return undefined;
  const name = `${decodedName(Buffer.from(source.read(at + 30, nameLength)))} (not in the directory)`;
  if (flags & 1) return { name, because: 'is encrypted' };
  if (method !== STORED && method !== DEFLATED)
    return { name, because: `is compressed by method ${method}, which Adder does not decompress` };
  // Stored data is searched with the archive's own bytes.
  if (method === STORED && size === 0) return undefined;
  // If the size follows the data, deflated data marks its own end.
  const length = size > 0 && size !== 0xffffffff ? Math.min(size, end - offset) : end - offset;
  return {
    name,
    stored: { offset, length },
    chunks: () => contentOf(source, offset, length, method).chunks(),
  };
}

function readerOf(source: ByteSource, { RandomAccessReader: Base }: typeof import('yauzl')): RandomAccessReader {
  class SourceReader extends Base {
    override read(
      buffer: Buffer,
      offset: number,
      length: number,
      position: number,
      done: (error: Error | null) => void,
    ): void {
      buffer.set(source.read(position, length), offset);
      setImmediate(done, null);
    }
  }
  return new SourceReader();
}
