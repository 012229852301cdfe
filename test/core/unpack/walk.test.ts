import { deflateSync, gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { embeddedStreams } from '../../../src/core/unpack/embedded-streams.js';
import { type ByteSource, isUnreadable, memorySource } from '../../../src/core/unpack/format.js';
import { formatOf } from '../../../src/core/unpack/index.js';
import { Budget, type Limits, usualLimits } from '../../../src/core/unpack/limits.js';
import { walkInside } from '../../../src/core/unpack/walk.js';
import { asarOf, collect, compressZstd, marksIn, tarOf, walk } from '../../support/unpack.js';

/** A source that counts how often it is read from its beginning, in pieces of a size. */
function counted(bytes: Buffer, size: number): ByteSource & { readings: number } {
  return {
    ...memorySource(bytes),
    readings: 0,
    *chunks() {
      this.readings++;
      for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
    },
  };
}

/** The members and the unread parts that a walk through a source meets. */
async function seen(source: ByteSource, name: string, isEmpty = false, limits: Partial<Limits> = {}) {
  const found: { members: string[]; unread: string[] } = { members: [], unread: [] };
  const budget = new Budget({ ...usualLimits, ...limits }, source.size, () => 0);
  await walkInside(source, name, [], { isEmpty, dataUris: [] }, budget, {
    scan: async (_, chunks) => {
      const bytes = await collect(chunks);
      return { isEmpty, dataUris: marksIn(bytes) };
    },
    done: async (inside) => void found.members.push(inside.join(' » ')),
    unread: (inside, because) => void found.unread.push(`${inside.join(' » ')}: ${because}`),
  });
  return found;
}

describe('a container in another one', () => {
  test.each([511, 64 * 1024])('is kept while it is searched, in pieces of %i bytes', async (size) => {
    const inner = await asarOf({ 'a.txt': 'x'.repeat(9 * 2 ** 20) });
    const source = counted(await tarOf({ 'app.asar': inner, 'b.txt': 'x' }), size);
    expect((await seen(source, 'a.tar')).members.sort()).toEqual(['app.asar', 'app.asar » a.txt', 'b.txt']);
    expect(source.readings).toBe(1);
  });

  test('is kept if it is smaller than what tells its format', async () => {
    const inner = gzipSync('made-up key');
    expect(inner.length).toBeLessThan(512);
    const source = counted(await tarOf({ 'a.js.gz': inner }), 100);
    expect((await seen(source, 'a.tar')).members.sort()).toEqual(['a.js.gz', 'a.js.gz » a.js']);
  });

  test('is as large as the limit, and no larger', async () => {
    const inner = await asarOf({ 'a.txt': 'x'.repeat(3000) });
    const bytes = await tarOf({ 'app.asar': inner });
    expect((await seen(counted(bytes, 700), 'a.tar', false, { innerBytes: inner.length })).unread).toEqual([]);
    expect((await seen(counted(bytes, 700), 'a.tar', false, { innerBytes: inner.length - 1 })).unread).toEqual([
      expect.stringContaining('app.asar: is a nested container larger than'),
    ]);
  });
});

describe('a source map in which nothing was found', () => {
  const map = (...texts: string[]) =>
    memorySource(
      Buffer.from(JSON.stringify({ version: 3, sources: texts.map((_, at) => `${at}.js`), sourcesContent: texts })),
    );
  const image = `<svg>${'<path/>'.repeat(20)}</svg>`;
  const svg = `<svg xlink:href="data:image/svg+xml;base64,${btoa(image)}"/>`;

  test('is not unpacked', async () => expect((await seen(map('f()'), 'a.map', true)).members).toEqual([]));

  /** Unpacks a map with one source text. The scan reports only data: URIs and SVG images. */
  const unpacked = async (text: string, innerBytes = usualLimits.innerBytes) => {
    const bytes = Buffer.from(JSON.stringify({ version: 3, sources: ['a.js'], sourcesContent: [text] }));
    const interest = { isEmpty: true, dataUris: marksIn(bytes) };
    expect(interest.dataUris).toHaveLength(1);
    const budget = new Budget({ ...usualLimits, innerBytes }, bytes.length, () => 0);
    const found: string[] = [];
    await walkInside(memorySource(bytes), 'a.map', [], interest, budget, {
      scan: async (_, chunks) => ({ isEmpty: !(await collect(chunks)).includes('</svg>'), dataUris: [] }),
      done: async (inside) => void found.push(inside.join(' » ')),
      unread: (_, because) => void found.push(because),
    });
    return found;
  };

  test('is unpacked if a data: URI contains an SVG image', async () => {
    expect(await unpacked(svg)).toEqual(['a.js']);
  });

  test('is not unpacked if a data: URI contains plain text', async () => {
    expect(await unpacked(svg.replace(btoa(image), btoa('made-up words '.repeat(9))))).toEqual([]);
  });

  test('is unpacked if a data: URI exceeds the size limit', async () => {
    expect(await unpacked(svg.replace(btoa(image), btoa('made-up words '.repeat(9))), 20)).toEqual(['a.js']);
  });
});

describe('streams among other bytes', () => {
  const code = (length: number) => Buffer.from(Array.from({ length }, (_, at) => (at * 7) % 23));
  const namesIn = async (bytes: Buffer) => {
    const names: string[] = [];
    for await (const one of embeddedStreams(memorySource(bytes))) {
      names.push(one.name);
      if (!isUnreadable(one)) await collect(one.chunks());
    }
    return names;
  };

  test('one in the bytes of another one is no stream of its own', async () => {
    const inner = deflateSync('made-up key '.repeat(20));
    const outer = deflateSync(Buffer.concat([code(200), inner, code(200)]), { level: 0 });
    expect(await namesIn(Buffer.concat([code(50), outer, code(50), inner]))).toEqual([
      'stream@50',
      `stream@${100 + outer.length}`,
    ]);
  });

  test('a long one is read to its end, and once', async () => {
    const text = Array.from({ length: 60_000 }, (_, at) => `${(at * 7919) % 10_007} `).join('');
    const long = deflateSync(text);
    expect(long.length).toBeGreaterThan(100_000);
    const bytes = Buffer.concat([code(3), long, code(70_000), deflateSync('made-up key')]);
    expect(await namesIn(bytes)).toEqual(['stream@3', `stream@${3 + long.length + 70_000}`]);
    for await (const one of embeddedStreams(memorySource(bytes))) {
      if (isUnreadable(one)) throw new Error('it is readable');
      expect((await collect(one.chunks())).toString()).toBe(one.name === 'stream@3' ? text : 'made-up key');
    }
  });
});

test('the second of two large members of a stream is read again from the stream', async () => {
  const large = 'x'.repeat(9 * 2 ** 20);
  const bytes = gzipSync(await tarOf({ a: large, b: large.replaceAll('x', 'y') }));
  const walked = await walk(bytes, 'site.tgz');
  expect(walked?.members['site.tar » b']?.slice(0, 3)).toBe('yyy');
  expect(walked?.unread).toEqual({});
});

test('a tar archive that is cut in a member is damaged', async () => {
  const bytes = await tarOf({ a: 'x'.repeat(5000) });
  expect(Object.values((await walk(bytes.subarray(0, 2000), 'a.tar'))?.unread ?? {})).toEqual([
    'is damaged',
    'is a damaged tar file',
  ]);
});

describe('formats that are not unpacked', () => {
  const glimpse = (head: Buffer) => ({ head, tail: head, samples: [head], size: head.length });
  const nameOf = (...bytes: (number | string)[]) =>
    formatOf(
      glimpse(
        Buffer.concat(bytes.map((one) => (typeof one === 'string' ? Buffer.from(one, 'latin1') : Buffer.from([one])))),
      ),
      'x',
    )?.name;
  const rest = 'made-up text '.repeat(9);

  test.each<[name: string, head: (number | string)[], other: (number | string)[]]>([
    ['arj', [0x60, 0xea, 26, 0, 10, rest], [0x60, 0xea, 25, 0, 10, rest]],
    ['arj', [0x60, 0xea, 26, 10, rest], [0x60, 0xea, 26, 11, rest]],
    ['lzma', [0x5d, 0, 0, ...Array(9).fill(1), 0, rest], [0x5d, 0, 0, ...Array(9).fill(1), 1, rest]],
    ['lzma', [0x5d, 0, 0, ...Array(9).fill(1), 0xff, rest], [0x5d, 0, 0, ...Array(9).fill(1), 0xfe, rest]],
    ['lha', ['ab-lh5-', rest], ['ab-lh5+', rest]],
    ['bzip2', ['BZh91AY&SY', rest], ['BZh91AY&SX', rest]],
    ['bzip2', ['BZh9', 0x17, 0x72, 0x45, 0x38, 0x50, 0x90, rest], ['BZh9', 0x17, 0x72, 0x45, 0x38, 0x50, 0x91, rest]],
    ['snappy', [0xff, 6, 0, 0, 'sNaPpY', rest], [0xff, 6, 0, 0, 'snappy', rest]],
    ['encrypted (openssl)', ['Salted__', rest], ['Salted ', rest]],
    ['encrypted (age)', ['age-encryption.org/v1', rest], ['age-encryption.com/', rest]],
    ['wim', ['MSWIM', 0, 0, 0, rest], ['MSWIM', rest]],
    ['lzip', ['LZIP', rest], ['LZIQ', rest]],
    ['xar', ['xar!', rest], ['xar?', rest]],
    ['compress', [0x1f, 0x9d, rest], [0x1f, 0x9e, rest]],
    ['lz4', [4, 0x22, 0x4d, 0x18, rest], [4, 0x22, 0x4d, 0x19, rest]],
    ['7z', ['7z', 0xbc, 0xaf, 0x27, 0x1c, rest], ['7z', 0xbc, 0xaf, 0x27, 0x1d, rest]],
    ['rar', ['Rar!', 0x1a, 7, rest], ['Rar!', 0x1a, 8, rest]],
    ['lzop', [0x89, 'LZO', 0, 0x0d, 0x0a, rest], [0x89, 'LZO', 0, 0x0d, 0x0d, rest]],
  ])('%s', (name, head, other) => expect([nameOf(...head), nameOf(...other) === name]).toEqual([name, false]));

  test('a disk image by its last 512 bytes', () => {
    const image = Buffer.alloc(2000, 'made up ');
    image.write('koly', 2000 - 512);
    expect(formatOf(glimpse(image), 'x')?.name).toBe('dmg');
    expect(formatOf(glimpse(image.subarray(0, 1999)), 'x')?.name).toBeUndefined();
  });

  test.skipIf(compressZstd)('zstd where Node.js does not have it', async () => {
    const bytes = Buffer.concat([Buffer.from([0x28, 0xb5, 0x2f, 0xfd]), Buffer.from(rest)]);
    expect((await walk(bytes, 'a.js.zst'))?.unread).toEqual({
      'a.js': 'is compressed with zstd, which this version of Node.js cannot decompress',
    });
  });
});

test.each(['3', 'null', '{"a":null}', '{"a":{"files":null}}', '[]'])(
  'an asar archive with the files %s has none',
  async (files) => {
    const header = Buffer.from(`{"files":${files}}`);
    const numbers = Buffer.alloc(16);
    for (const [at, one] of [4, header.length + 8, header.length + 4, header.length].entries())
      numbers.writeUInt32LE(one, 4 * at);
    expect(await walk(Buffer.concat([numbers, header]), 'a.asar')).toEqual({ members: {}, unread: {} });
  },
);
