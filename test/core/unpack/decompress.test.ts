import { randomBytes } from 'node:crypto';
import { brotliCompressSync, deflateRawSync, gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { type Codec, Compressed, WHOLE_INFLATED } from '../../../src/core/unpack/decompress.js';
import { memorySource, piecesOf, wholeOf } from '../../../src/core/unpack/format.js';
import { zlib } from '../../../src/core/unpack/zlib.js';

const { gunzip, gunzipSync, createGunzip, inflateRaw, inflateRawSync, createInflateRaw } = zlib;
const { brotliDecompress, brotliDecompressSync, createBrotliDecompress } = zlib;

const codecs: readonly [name: string, compress: (bytes: Uint8Array) => Buffer, codec: Codec][] = [
  ['gzip', gzipSync, { whole: gunzipSync, beside: gunzip, stream: createGunzip }],
  ['deflate', deflateRawSync, { whole: inflateRawSync, beside: inflateRaw, stream: createInflateRaw }],
  [
    'brotli',
    brotliCompressSync,
    { whole: brotliDecompressSync, beside: brotliDecompress, stream: createBrotliDecompress },
  ],
];

const contents: readonly [what: string, content: Buffer][] = [
  ['nothing', Buffer.alloc(0)],
  ['some text', Buffer.from('ferry '.repeat(100))],
  ['text that is inflated beside', Buffer.from(randomBytes(40_000).toString('hex'))],
  ['more than is inflated at once', Buffer.alloc(WHOLE_INFLATED + 1, 'saltmarsh ')],
];

function compressed(bytes: Uint8Array, codec: Codec, inflatedSize?: number): Compressed {
  return new Compressed(() => piecesOf(memorySource(bytes), 0, bytes.length), bytes.length, codec, inflatedSize);
}

describe.each(codecs)('%s', (_, compress, codec) => {
  test.each(contents)('inflates %s, whatever is said of its size, begun before or not', async (_, content) => {
    const bytes = compress(content);
    for (const size of [undefined, 0, 1, content.length, 2 ** 32 - 1]) {
      const one = compressed(bytes, codec, size);
      expect((await wholeOf(one.chunks())).equals(content)).toBe(true);
      one.begin();
      one.begin();
      expect((await wholeOf(one.chunks())).equals(content)).toBe(true);
      expect((await wholeOf(one.chunks())).equals(content)).toBe(true);
    }
  });

  test('what precedes damage is read, and then there is an error', async () => {
    const content = randomBytes(300_000).toString('base64');
    const bytes = compress(Buffer.from(content));
    for (const isBegun of [false, true]) {
      const one = compressed(bytes.subarray(0, bytes.length / 2), codec);
      if (isBegun) one.begin();
      let read = '';
      const reading = (async () => {
        for await (const chunk of one.chunks()) read += Buffer.from(chunk).toString();
      })();
      await expect(reading).rejects.toThrow();
      expect(read.length).toBeGreaterThan(50_000);
      expect(content.startsWith(read)).toBe(true);
    }
  });
});
