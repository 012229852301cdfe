import { Compressed } from '../decompress.js';
import { type ByteSource, type Format, hasMark, type Member, type Unreadable, wholeOf } from '../format.js';
import { brotliCodec, zlibCodec } from '../zlib.js';

/** Fonts of the web, whose tables hold names and licences, and which may carry a document of metadata (WOFF File Format 1.0). */
export const woff: Format = {
  name: 'WOFF',
  firstBytes: [0x77],
  recognise: (head) => hasMark(head, 'wOFF'),
  async *members(source) {
    const bytes = await allOf(source);
    const [tables, metadata] = [bytes.readUInt16BE(12), metadataAt(bytes, 24)];
    for (let at = 44; at < 44 + 20 * tables; at += 20) {
      const [offset, length, original] = [4, 8, 12].map((field) => bytes.readUInt32BE(at + field));
      // A table that does not get smaller is there as it is.
      if (length !== original)
        yield streamOf(bytes, bytes.toString('latin1', at, at + 4), offset as number, length as number, zlibCodec);
    }
    if (metadata) yield streamOf(bytes, 'metadata', ...metadata, zlibCodec);
  },
};

/** The second version (WOFF File Format 2.0), whose tables are one stream. */
export const woff2: Format = {
  name: 'WOFF2',
  firstBytes: [0x77],
  recognise: (head) => hasMark(head, 'wOF2'),
  async *members(source): AsyncIterable<Member | Unreadable> {
    const bytes = await allOf(source);
    const metadata = metadataAt(bytes, 28);
    if (hasMark(bytes, 'ttcf', 4))
      yield { name: 'tables', because: 'is a collection of fonts, which Adder does not open' };
    else yield streamOf(bytes, 'tables', endOfDirectory(bytes), bytes.readUInt32BE(20), brotliCodec);
    if (metadata) yield streamOf(bytes, 'metadata', ...metadata, brotliCodec);
  },
};

/** Offset and length of the metadata, if there is some. */
function metadataAt(bytes: Buffer, field: number): [offset: number, length: number] | undefined {
  const [offset, length] = [bytes.readUInt32BE(field), bytes.readUInt32BE(field + 4)];
  return length === 0 ? undefined : [offset, length];
}

const [HEADER, OTHER_TAG, GLYPHS, LOCATIONS] = [48, 63, 10, 11];

/** The directory has entries of different lengths (4.1 and 5.1). */
function endOfDirectory(bytes: Buffer): number {
  let at = HEADER;
  for (let table = bytes.readUInt16BE(12); table > 0; table--) {
    const flags = bytes.readUInt8(at);
    const [tag, version] = [flags & 63, flags >> 6];
    at = afterNumber(bytes, at + (tag === OTHER_TAG ? 5 : 1));
    const isTransformed = tag === GLYPHS || tag === LOCATIONS ? version !== 3 : version !== 0;
    if (isTransformed) at = afterNumber(bytes, at);
  }
  return at;
}

/** The place after a number in groups of seven bits, all but the last with the highest bit. */
function afterNumber(bytes: Buffer, from: number): number {
  let at = from;
  while (bytes.readUInt8(at) & 0x80) at++;
  return at + 1;
}

/** @throws if it is not in the file */
function streamOf(bytes: Buffer, name: string, offset: number, length: number, codec: typeof zlibCodec): Member {
  if (offset + length > bytes.length) throw new Error('outside the file');
  const part = bytes.subarray(offset, offset + length);
  return { name, stored: { offset, length }, chunks: () => new Compressed(() => [part], length, codec).chunks() };
}

/** Fonts are small. */
async function allOf(source: ByteSource): Promise<Buffer> {
  return source.isStream ? wholeOf(source.chunks()) : Buffer.from(source.read(0, source.size));
}
