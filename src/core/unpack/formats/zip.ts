import type { Entry, RandomAccessReader, ZipFile } from 'yauzl';
import { decompressed } from '../decompress.js';
import { type Format, hasMark, type Member, piecesOf, type Source, type Unreadable } from '../format.js';

/** Stored and deflated members; others (APPNOTE, 4.4.5) need programs of their own. */
const [STORED, DEFLATED] = [0, 8];

/** Zip (PKWARE's APPNOTE.TXT) under its many names: app packages, extensions, libraries, archives in archives. */
export const zip: Format = {
  name: 'zip',
  recognise: (head) => hasMark(head, 'PK\x03\x04') || hasMark(head, 'PK\x05\x06'),
  async *members(source) {
    // Loaded where the first archive is met.
    const yauzl = await import('yauzl');
    const file = await yauzl.fromRandomAccessReaderPromise(readerOf(source, yauzl), source.size, {
      autoClose: false,
      decodeStrings: false,
      // Sizes that lie end at our own limits and checksums, and the other members are read all the same.
      validateEntrySizes: false,
    });
    for await (const entry of file.eachEntry()) {
      const member = await memberOf(file, entry as Entry, source);
      if (member) yield member;
    }
  },
};

async function memberOf(file: ZipFile, entry: Entry, source: Source): Promise<Member | Unreadable | undefined> {
  // Names come as bytes, and nothing is ever written to where they point.
  const name = nameOf(entry);
  if (name.endsWith('/')) return undefined;
  if (entry.isEncrypted()) return { name, because: 'is encrypted' };
  const { compressionMethod: method, compressedSize } = entry;
  if (method !== STORED && method !== DEFLATED)
    return { name, because: `is compressed by method ${method}, which Adder does not read` };
  try {
    const { fileDataStart: offset } = await file.readLocalFileHeaderPromise(entry, { minimal: true });
    return { name, stored: { offset, length: compressedSize }, chunks: () => checked(source, offset, entry) };
  } catch {
    return { name, because: 'is damaged' };
  }
}

/** UTF-8 where the entry says so or the bytes are; else the code page that the format began with is close to Latin-1. */
function nameOf({ fileName }: Entry): string {
  const bytes = fileName as unknown as Buffer;
  const text = bytes.toString();
  return (text.includes('\ufffd') ? bytes.toString('latin1') : text).replaceAll('\\', '/');
}

/** @throws where the sum at the end is another one than the entry has */
async function* checked(source: Source, offset: number, entry: Entry): AsyncIterable<Uint8Array> {
  const { crc32, createInflateRaw, inflateRawSync } = await import('node:zlib');
  const { compressionMethod: method, compressedSize: size } = entry;
  const pieces = () => piecesOf(source, offset, offset + size);
  const codec = { whole: inflateRawSync, stream: createInflateRaw };
  let sum = 0;
  for await (const chunk of method === STORED ? pieces() : decompressed(pieces, size, codec)) {
    sum = crc32(chunk, sum);
    yield chunk;
  }
  if (sum !== entry.crc32) throw new Error('another checksum');
}

function readerOf(source: Source, { RandomAccessReader: Base }: typeof import('yauzl')): RandomAccessReader {
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
