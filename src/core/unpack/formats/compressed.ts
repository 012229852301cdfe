import { pipeline, Readable, type Transform } from 'node:stream';
import { type Format, hasMark, type Source } from '../format.js';

/** Larger pieces make Node's own inflating faster. */
const CHUNK = 256 * 1024;

type Zlib = typeof import('node:zlib') & { createZstdDecompress?: (options: { chunkSize: number }) => Transform };

/** Streams of one compressed thing, which is named as the file is without the ending. */
function compressed(
  name: string,
  ending: RegExp,
  recognise: Format['recognise'],
  decompressorOf: (zlib: Zlib) => (() => Transform) | undefined,
  headerOf: (source: Source) => number = () => 0,
): Format {
  return {
    name,
    recognise,
    async *members(source: Source, container: string) {
      const inner = innerName(container, ending);
      // Loaded where the first of them is met.
      const decompress = decompressorOf(await import('node:zlib'));
      if (!decompress) yield { name: inner, because: `is compressed with ${name}, which this Node.js cannot read` };
      else {
        const offset = headerOf(source);
        const stored = { offset, length: source.size - offset };
        yield { name: inner, stored, chunks: () => through(source, decompress()) };
      }
    },
  };
}

/** `app.js` of `app.js.gz`, `site.tar` of `site.tgz`. */
function innerName(container: string, ending: RegExp): string {
  const base = container.slice(container.lastIndexOf('/') + 1);
  return /\.tgz$/i.test(base) ? base.replace(/\.tgz$/i, '.tar') : base.replace(ending, '');
}

async function* through(source: Source, transform: Transform): AsyncIterable<Uint8Array> {
  pipeline(Readable.from(source.chunks(), { objectMode: false }), transform, () => {
    // What went wrong comes to whoever reads the end of it.
  });
  yield* transform;
}

/** Gzip (RFC 1952), several members one behind the other too. */
export const gzip = compressed(
  'gzip',
  /\.gz$/i,
  (head) => hasMark(head, [0x1f, 0x8b, 8]),
  (zlib) => () => zlib.createGunzip({ chunkSize: CHUNK }),
  gzipHeader,
);

const LARGEST_HEADER = 64 * 1024;

/** How long the header is, which may hold a name and a comment (2.3). */
function gzipHeader(source: Source): number {
  const bytes = source.read(0, LARGEST_HEADER);
  const flags = bytes[3] ?? 0;
  let at = 10;
  if (flags & 4) at += 2 + ((bytes[at] ?? 0) | ((bytes[at + 1] ?? 0) << 8));
  for (const text of [8, 16]) if (flags & text) at = bytes.indexOf(0, at) + 1 || bytes.length;
  return flags & 2 ? at + 2 : at;
}

/** Brotli (RFC 7932) has no mark, so its usual ending has to do. */
export const brotli = compressed(
  'brotli',
  /\.br$/i,
  (_, name) => /\.br$/i.test(name),
  (zlib) => () => zlib.createBrotliDecompress({ chunkSize: CHUNK }),
);

/** Zstandard (RFC 8878), where this Node.js has it. */
export const zstd = compressed(
  'zstd',
  /\.zst$/i,
  (head) => hasMark(head, [0x28, 0xb5, 0x2f, 0xfd]),
  ({ createZstdDecompress: create }) => create && (() => create({ chunkSize: CHUNK })),
);
