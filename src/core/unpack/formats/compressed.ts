import { type Codec, Compressed } from '../decompress.js';
import { type ByteSource, type Format, hasMark, isBinary } from '../format.js';
import { brotliCodec, gzipCodec, gzipHeader, ZLIB_LEVELS, zlib, zlibCodec } from '../zlib.js';

interface Details {
  /** How long the header of a source is. */
  headerOf?: (source: ByteSource) => number;
  /** How large the content of a source says that it is. */
  sizeOf?: (source: ByteSource) => number | undefined;
  firstBytes?: readonly number[];
}

/** Streams of one compressed thing, which is named as the file is without the ending. */
function compressed(
  name: string,
  ending: RegExp,
  recognise: Format['recognise'],
  codecOf: (from: typeof zlib) => Codec | undefined,
  { headerOf = () => 0, sizeOf = () => undefined, firstBytes }: Details = {},
): Format {
  const begun = new WeakMap<ByteSource, Compressed>();
  const contentOf = (source: ByteSource) => {
    const codec = codecOf(zlib);
    return codec && new Compressed(() => source.chunks(), source.size, codec, sizeOf(source));
  };
  return {
    name,
    ...(firstBytes && { firstBytes }),
    recognise,
    begin(source: ByteSource) {
      const content = contentOf(source);
      content?.begin();
      if (content) begun.set(source, content);
    },
    async *members(source: ByteSource, container: string) {
      const inner = innerName(container, ending);
      const all = begun.get(source) ?? contentOf(source);
      if (!all)
        yield { name: inner, because: `is compressed with ${name}, which this version of Node.js cannot decompress` };
      else {
        const offset = headerOf(source);
        const stored = { offset, length: source.size - offset };
        yield { name: inner, stored, chunks: () => all.chunks() };
      }
    },
  };
}

/** `app.js` of `app.js.gz`, `site.tar` of `site.tgz`. */
function innerName(container: string, ending: RegExp): string {
  const base = container.slice(container.lastIndexOf('/') + 1);
  return /\.tgz$/i.test(base) ? base.replace(/\.tgz$/i, '.tar') : base.replace(ending, '');
}

/** Gzip (RFC 1952), several members one after the other too. */
export const gzip = compressed(
  'gzip',
  /\.gz$/i,
  (head) => hasMark(head, [0x1f, 0x8b, 8]),
  () => gzipCodec,
  {
    headerOf: (source) => gzipHeader(Buffer.from(source.read(0, LARGEST_HEADER))),
    sizeOf: gzipSize,
    firstBytes: [0x1f],
  },
);

const LARGEST_HEADER = 64 * 1024;

/** The last four bytes (2.3.1), which count the last member only, and not beyond four gigabytes. */
function gzipSize(source: ByteSource): number | undefined {
  const { isStream, size } = source;
  return isStream || size < 4 ? undefined : Buffer.from(source.read(size - 4, 4)).readUInt32LE();
}

/** Brotli (RFC 7932) has no mark, so its usual ending has to do. */
export const brotli = compressed(
  'brotli',
  /\.br(otli)?$/i,
  (_, name) => /\.br(otli)?$/i.test(name),
  () => brotliCodec,
);

/** A zlib stream (RFC 1950) that is a file: its two bytes are a checksum of themselves, and text never begins so. */
export const zlibStream = compressed(
  'zlib',
  /\.(zlib|zz|z)$/i,
  (head) =>
    head.length > 8 && head[0] === 0x78 && ZLIB_LEVELS.includes(head[1] as number) && isBinary(head.subarray(0, 256)),
  () => zlibCodec,
  { firstBytes: [0x78] },
);

/** Zstandard (RFC 8878), if this Node.js supports it. */
export const zstd = compressed(
  'zstd',
  /\.zst$/i,
  (head) => hasMark(head, [0x28, 0xb5, 0x2f, 0xfd]),
  ({ zstdDecompressSync: whole, zstdDecompress: beside, createZstdDecompress: stream }) =>
    whole && beside && stream && { whole, beside, stream },
  { firstBytes: [0x28] },
);
