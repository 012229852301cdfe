import { randomBytes } from 'node:crypto';
import { brotliCompressSync, deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { limits } from '../../../src/core/limits/index.js';
import { embeddedStreams } from '../../../src/core/unpack/embedded-streams.js';
import { type ByteSource, isUnreadable, memorySource } from '../../../src/core/unpack/format.js';
import { runs } from '../../support/runs.js';
import { collect, walk } from '../../support/unpack.js';

const secret = 'made-up key in a stream among other bytes';

/** Machine code, say: bytes below 32 make it binary, and no part of it looks like a stream. */
const code = (length: number) => Buffer.from(Array.from({ length }, (_, at) => (at * 7) % 23));

/** Bytes that are read in pieces of a size. */
function pieces(bytes: Buffer, size: number): ByteSource {
  return {
    ...memorySource(bytes),
    *chunks() {
      for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
    },
  };
}

/** The streams of a source, by where they begin. */
async function streamsOf(source: ByteSource): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  for await (const one of embeddedStreams(source))
    found[one.name] = isUnreadable(one) ? one.because : (await collect(one.chunks())).toString('latin1');
  return found;
}

const compressed = fc
  .tuple(fc.constantFrom(1, 5, 6, 9), fc.boolean(), fc.string({ maxLength: 3000 }))
  .map(([level, isGzip, more]) =>
    isGzip ? gzipSync(secret + more, { level }) : deflateSync(secret + more, { level }),
  );

test('a stream at any offset is found, however the bytes are cut', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.nat(5000),
      fc.nat(5000),
      fc.integer({ min: 1, max: 4000 }),
      compressed,
      async (before, after, size, stream) => {
        const found = await streamsOf(pieces(Buffer.concat([code(before), stream, code(after)]), size));
        expect(Object.keys(found)).toEqual([`stream@${before}`]);
        expect(found[`stream@${before}`]).toContain(secret);
      },
    ),
    { numRuns: runs(150) },
  );
});

test('streams one after the other are found once each', async () => {
  const all = [deflateSync(`1 ${secret}`), code(3), gzipSync(`2 ${secret}`), deflateSync(`3 ${secret}`)];
  const found = await streamsOf(memorySource(Buffer.concat(all)));
  expect(Object.values(found)).toEqual([`1 ${secret}`, `2 ${secret}`, `3 ${secret}`]);
});

test('a stream that is cut is searched as far as it goes', async () => {
  const stream = deflateSync(Buffer.concat([Buffer.from(secret), randomBytes(9000)]));
  const found = await streamsOf(memorySource(Buffer.concat([stream.subarray(0, 5000), code(4000)])));
  expect(Object.values(found)[0]?.slice(0, secret.length)).toBe(secret);
});

test('bytes drawn by chance have no stream', async () => {
  expect(await streamsOf(memorySource(randomBytes(2 ** 20)))).toEqual({});
});

test('only a large member of an archive is listed, and only if it has a stream', async () => {
  const { value } = limits.innerBytes;
  limits.innerBytes.value = 2000;
  try {
    const [withStream, without] = [Buffer.concat([code(1990), deflateSync(secret)]), code(2040)];
    expect(await streamsOf({ ...memorySource(withStream), isStream: true })).toEqual({
      '': 'is larger than 2.0 kB: compressed streams in it were not searched',
    });
    expect(await streamsOf({ ...memorySource(without), isStream: true })).toEqual({});
    const stream = deflateSync(secret);
    const most = Buffer.concat([code(2000 - stream.length), stream]);
    expect(Object.values(await streamsOf({ ...memorySource(most), isStream: true }))).toEqual([secret]);
  } finally {
    limits.innerBytes.value = value;
  }
});

test('in a file of an unknown format they are opened, and pictures are left alone', async () => {
  const bytes = Buffer.concat([Buffer.from('HDR1'), code(600), deflateSync(secret), code(600)]);
  expect(await walk(bytes, 'a.bin')).toEqual({ members: { 'stream@604': secret }, unread: {} });
  bytes.write('GIF8', 'latin1');
  expect(await walk(bytes, 'a.bin')).toBeUndefined();
});

test('in bytes that look random they are opened, and the rest is listed', async () => {
  const walked = await walk(Buffer.concat([randomBytes(40_000), deflateSync(secret), randomBytes(40_000)]), 'a.bin');
  expect(walked?.unread).toEqual({ '': 'looks compressed or encrypted, in an unknown format' });
  expect(Object.values(walked?.members ?? {})).toEqual([secret]);
});

/** A font of one version with a table of names, one that does not get smaller, and metadata. */
const fonts = {
  woff(text: string, metadata: string): Buffer {
    const [names, more] = [deflateSync(text), deflateSync(metadata)];
    const start = 44 + 2 * 20;
    const header = Buffer.alloc(start);
    header.write('wOFF\0\x01\0\0', 'latin1');
    header.writeUInt16BE(2, 12);
    header.writeUInt32BE(start + names.length + 4, 24);
    header.writeUInt32BE(metadata === '' ? 0 : more.length, 28);
    const entry = (at: number, tag: string, offset: number, length: number, original: number) => {
      header.write(tag, at, 'latin1');
      for (const [index, one] of [offset, length, original].entries()) header.writeUInt32BE(one, at + 4 + 4 * index);
    };
    entry(44, 'post', start + names.length, 4, 4);
    entry(64, 'name', start, names.length, text.length);
    return Buffer.concat([header, names, Buffer.from('post'), more]);
  },
  woff2(text: string, metadata: string): Buffer {
    const [tables, more] = [brotliCompressSync(text), brotliCompressSync(metadata)];
    // Glyphs with a length when transformed, known tables with and without one, one with its tag, glyphs that are not transformed.
    const directory = Buffer.from([
      10,
      0x81,
      0x02,
      0x85,
      0x06,
      1,
      5,
      63,
      ...Buffer.from('ABCD'),
      7,
      0xca,
      3,
      0x41,
      2,
      2,
      5,
      3,
    ]);
    const header = Buffer.alloc(48);
    header.write('wOF2\0\x01\0\0', 'latin1');
    header.writeUInt16BE(6, 12);
    header.writeUInt32BE(tables.length, 20);
    header.writeUInt32BE(48 + directory.length + tables.length, 28);
    header.writeUInt32BE(metadata === '' ? 0 : more.length, 32);
    return Buffer.concat([header, directory, tables, more]);
  },
};

describe.each(['woff', 'woff2'] as const)('a font, %s', (version) => {
  const tables = version === 'woff' ? 'name' : 'tables';

  test('has its tables and its metadata', async () => {
    expect(await walk(fonts[version](secret.repeat(20), '<metadata/>'), 'a.font')).toEqual({
      members: { [tables]: secret.repeat(20), metadata: '<metadata/>' },
      unread: {},
    });
  });

  test('may have no metadata', async () => {
    const walked = await walk(fonts[version](secret.repeat(20), ''), 'a.font');
    expect(Object.keys(walked?.members ?? {})).toEqual([tables]);
  });

  test('that is cut is damaged', async () => {
    const font = fonts[version](secret.repeat(20), '<metadata/>');
    const walked = await walk(font.subarray(0, font.length - 30), 'a.font');
    expect(Object.values(walked?.unread ?? {})[0]).toMatch(/^is (a )?damaged/);
  });
});

test('a collection of fonts is listed', async () => {
  const font = fonts.woff2(secret, '');
  font.write('ttcf', 4, 'latin1');
  expect((await walk(font, 'a.woff2'))?.unread).toEqual({
    tables: 'is a collection of fonts, which Adder does not open',
  });
});
