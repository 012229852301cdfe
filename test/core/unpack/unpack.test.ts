import * as zlib from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { around, dataUris, inOrder } from '../../../src/core/unpack/data-uri.js';
import { type Member, memorySource } from '../../../src/core/unpack/format.js';
import { sourceMap } from '../../../src/core/unpack/formats/source-map.js';
import { Budget, type Limits, usualLimits } from '../../../src/core/unpack/limits.js';
import { type Interest, type Visitor, walkInside } from '../../../src/core/unpack/walk.js';
import {
  asarOf,
  collect,
  compressZstd,
  files,
  hasPython,
  interest,
  marksIn,
  tarOf,
  type Walked,
  walk,
  zipOf,
} from '../../support/unpack.js';

const { brotliCompressSync, gzipSync } = zlib;

describe('archives as their own programs make them', () => {
  test.skipIf(!hasPython).each(['stored', 'deflated'] as const)('zip, %s', async (how) => {
    expect(await walk(zipOf(files, how), 'app.bin')).toEqual({ members: files, unread: {} });
  });

  test('tar, asar, and one thing compressed', async () => {
    expect(await walk(await tarOf(files), 'x')).toEqual({ members: files, unread: {} });
    expect(await walk(await asarOf(files), 'x')).toEqual({ members: files, unread: {} });
    expect(await walk(gzipSync('made-up key'), 'dist/a.js.gz')).toEqual({
      members: { 'a.js': 'made-up key' },
      unread: {},
    });
    expect(await walk(brotliCompressSync('made-up key'), 'a.js.br')).toMatchObject({
      members: { 'a.js': 'made-up key' },
    });
    expect(await walk(Buffer.from('PK is no archive'), 'a.zip')).toBeUndefined();
  });

  test.skipIf(!compressZstd)('zstd, where this Node.js has it; where not, it is said', async () => {
    expect(await walk(compressZstd?.(Buffer.from('made-up key')) as Buffer, 'a.js.zst')).toEqual({
      members: { 'a.js': 'made-up key' },
      unread: {},
    });
  });

  test('one in another, as deep as they go, and no deeper than the limit', async () => {
    const inner = gzipSync(await tarOf({ 'c.txt': 'made-up key', 'd.asar': await asarOf({ 'e.js': 'deep' }) }));
    const outer = await tarOf({ 'site.tgz': inner, 'f.txt': 'x' });
    const { members, unread } = (await walk(outer, 'x.tar')) as Walked;
    expect(Object.keys(members).sort()).toEqual([
      'f.txt',
      'site.tgz',
      'site.tgz » site.tar',
      'site.tgz » site.tar » c.txt',
      'site.tgz » site.tar » d.asar',
      'site.tgz » site.tar » d.asar » e.js',
    ]);
    expect([members['site.tgz » site.tar » d.asar » e.js'], unread]).toEqual(['deep', {}]);
    expect((await walk(outer, 'x.tar', { depth: 2 }))?.unread).toEqual({
      'site.tgz » site.tar': 'is nested 3 containers deep',
    });
  });
});

describe('source maps: the texts that they carry', () => {
  const texts = { sources: ['../src/ä.ts', 'b.ts', null], sourcesContent: ['é "one"\n⛴', null, 'three'] };
  const members = { '../src/ä.ts': Buffer.from('é "one"\n⛴').toString('latin1'), 'source 2': 'three' };
  const inner = { version: 3, ...texts, names: ['sources'], mappings: 'AAAA' };
  const outer = { version: 3, sections: [{ offset: { line: 0, column: 0 }, map: inner }] };

  test.each<[title: string, text: string, name: string]>([
    ['by what it begins with', JSON.stringify({ ...inner, file: 'é' }), 'x'],
    ['by its name', JSON.stringify({ x_first: 1, ...inner }), 'a.js.map'],
    ['guarded', `)]}'\n${JSON.stringify(inner)}`, 'x'],
    ['in sections', JSON.stringify(outer), 'x'],
    ['cut off', JSON.stringify(inner).slice(0, -9), 'x'],
  ])('%s', async (_, text, name) => {
    expect(await walk(Buffer.from(text), name)).toEqual({ members, unread: {} });
  });

  test('each has its place, also for a hit in the map itself', async () => {
    const text = Buffer.from(JSON.stringify({ ...inner, sourceRoot: 'https://a.example/' }, null, 1));
    const stood: unknown[] = [];
    for await (const one of sourceMap.members(memorySource(text), 'x')) {
      const { stored = { offset: 0, length: 0 }, address } = one as Member;
      stood.push([address, JSON.parse(text.subarray(stored.offset, stored.offset + stored.length).toString())]);
    }
    expect(stood).toEqual([
      ['https://a.example/../src/ä.ts', 'é "one"\n⛴'],
      ['https://a.example/source 2', 'three'],
    ]);
  });

  test('are unpacked only after a hit', async () => {
    const bytes = Buffer.from(JSON.stringify(inner));
    const budget = new Budget(usualLimits, bytes.length, () => 0);
    const never = () => Promise.reject(new Error('was unpacked'));
    const visitor: Visitor<Interest> = { scan: never, done: never, unread: never };
    expect(await walkInside(memorySource(bytes), 'x', [], { isEmpty: true, dataUris: [] }, budget, visitor)).toEqual(
      [],
    );
  });

  test('a picture in a text in a map in an archive', async () => {
    const svg = `<svg>${'x'.repeat(20)}</svg>`;
    const source = `url(data:image/svg+xml;base64,${btoa(svg)})`;
    const archive = await tarOf({
      'a.js.map': JSON.stringify({ version: 3, sources: ['a.css'], sourcesContent: [source] }),
    });
    expect((await walk(archive, 'a.tar'))?.members).toMatchObject({
      'a.js.map » a.css': source,
      'a.js.map » a.css » data:image/svg+xml@4': svg,
    });
    // A map above the size limit is searched as text with data: URIs.
    const { members, unread } = (await walk(archive, 'a.tar', { textBytes: 100 })) as Walked;
    expect([Object.keys(members).length, Object.values(members)[0], unread]).toEqual([2, svg, {}]);
  });
});

describe('data: URIs', () => {
  const uri = (type: string, text: string) => `data:${type};base64,${btoa(text)}`;
  const marks = (text: string) =>
    [...text.matchAll(/(?:xml|json|utf-8);base64,/g)].map(({ 0: mark, index }) => index + mark.length);

  test('whole, at any place, from bytes in memory and from streams in chunks of any size', async () => {
    const parts = fc.constantFrom(
      'a{b:url(',
      ')',
      'data:',
      'x'.repeat(300),
      "'data:application/json;base64,'",
      uri('image/svg+xml', '<svg> short </svg>'),
      uri('text/x;charset=utf-8', 'y'.repeat(3000)),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(parts, { maxLength: 12 }), fc.integer({ min: 1, max: 400 }), async (pieces, size) => {
        const text = pieces.join(' ');
        const bytes = Buffer.from(text);
        const expected = [...text.matchAll(/data:([\w+/]+)(?:;charset=utf-8)?;base64,([\w+/=]{12,})/g)].map(
          ({ 1: type, 2: content = '', index }) => [`data:${type}@${index}`, atob(content).length],
        );
        const stream = async function* () {
          for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
        };
        for (const source of [around(memorySource(bytes), marks(text)), inOrder(stream())]) {
          const found: [string, number][] = [];
          for await (const one of dataUris(source, marks(text), 1e6))
            if (!('because' in one)) found.push([one.name, (await collect(one.chunks())).length]);
          expect(found).toEqual(expected);
        }
      }),
    );
  });

  test('one above the limit is reported', async () => {
    const text = uri('application/json', 'x'.repeat(900));
    const unread: unknown[] = [];
    for await (const one of dataUris(around(memorySource(Buffer.from(text)), marks(text)), marks(text), 1000))
      unread.push(one);
    expect(unread).toEqual([{ name: 'data:application/json@0', because: 'is longer than 1.0 kB' }]);
  });
});

test('a site in a compressed archive takes no memory of its size', async () => {
  const site = gzipSync(await tarOf({ 'a.js': 'x'.repeat(300_000), 'b.js': 'made-up key', 'c.gz': gzipSync('deep') }));
  const { members, unread } = (await walk(site, 'site.tar.gz', { innerBytes: 1000 })) as Walked;
  expect(Object.keys(members)).toContain('site.tar » c.gz » c');
  expect([members['site.tar » b.js'], unread]).toEqual(['made-up key', {}]);
});

describe('what cannot be read is said', () => {
  test('cut off, another checksum, encrypted, a method of its own', async () => {
    const gz = gzipSync('made-up key '.repeat(1000));
    const cut = (await walk(gz.subarray(0, gz.length - 9), 'a.gz')) as Walked;
    expect(cut.unread).toEqual({ a: 'is damaged' });
    expect(cut.members.a).toContain('made-up key');
    const tar = await tarOf({ 'a.txt': 'x'.repeat(5000) });
    expect((await walk(tar.subarray(0, 3000), 'a.tar'))?.unread).toMatchObject({ 'a.txt': 'is damaged' });
    if (!hasPython) return;
    const zip = zipOf({ 'a.txt': 'made-up key' }, 'stored');
    const at = zip.indexOf('made-up');
    const changed = (offset: number, ...bytes: number[]) => {
      const copy = Buffer.from(zip);
      copy.set(bytes, offset);
      return copy;
    };
    const entry = zip.indexOf('PK\x01\x02');
    expect((await walk(changed(at, 0x4d), 'a.zip'))?.unread).toEqual({ 'a.txt': 'is damaged' });
    expect((await walk(changed(entry + 8, 1, 0), 'a.zip'))?.unread).toEqual({ 'a.txt': 'is encrypted' });
    expect((await walk(changed(entry + 10, 99, 0), 'a.zip'))?.unread).toEqual({
      'a.txt': 'is compressed by method 99, which Adder does not decompress',
    });
    expect((await walk(zip.subarray(0, -10), 'a.zip'))?.unread).toEqual({ '': 'is a damaged zip file' });
  });

  test.each<[limits: Partial<Limits>, unread: Record<string, string>]>([
    [{ memberBytes: 1000 }, { '': 'is larger than 1.0 kB' }],
    [{ totalBytes: 60_000 }, { '': 'contains more than 60 kB' }],
    [{ members: 1 }, { '': 'has more than 1 embedded files' }],
  ])('%j', async (limits, unread) => {
    expect((await walk(await tarOf(files), 'a.tar', limits))?.unread).toEqual(unread);
  });

  test('a small thing that would fill the memory', async () => {
    const bomb = gzipSync(Buffer.alloc(200 * 2 ** 20));
    const look = async () => {
      let size = 0;
      const budget = new Budget({ ...usualLimits, ratio: 100 }, bomb.length, () => 0);
      const unread: string[] = [];
      await walkInside(memorySource(bomb), 'a.gz', [], interest, budget, {
        scan: async (_, chunks) => {
          for await (const chunk of chunks) size += chunk.length;
          return interest;
        },
        done: async () => undefined,
        unread: (_, because) => void unread.push(because),
      });
      return { size, unread };
    };
    const { size, unread } = await look();
    expect(unread).toEqual(['expands to more than 100 times its size']);
    expect(size).toBeLessThan(70 * 2 ** 20);
  });
});

const USUAL_RUNS = 300;

/** `npm run fuzz` asks for many. */
const RUNS = Number(process.env.ADDER_FUZZ_RUNS ?? USUAL_RUNS);

test('damaged archives are reported, and never throw, hang or lose intact files', async () => {
  const whole = [
    await tarOf(files),
    await asarOf(files),
    gzipSync('made-up key'),
    Buffer.from(
      JSON.stringify({
        version: 3,
        sources: ['a.ts'],
        sourcesContent: ['url(data:image/svg+xml;base64,PHN2Zz4gc2hvcnQgPC9zdmc+)'],
      }),
    ),
    ...(hasPython ? [zipOf(files)] : []),
  ];
  const changes = fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.nat(255)), {
    minLength: 1,
    maxLength: 6,
  });
  await fc.assert(
    fc.asyncProperty(fc.constantFrom(...whole), changes, async (bytes, edits) => {
      const copy = Buffer.from(bytes);
      for (const [at, byte] of edits) copy[Math.min(copy.length - 1, Math.floor(at * copy.length))] = byte;
      const budget = new Budget({ ...usualLimits, totalBytes: 2 ** 24 }, copy.length, () => 0);
      await walkInside(memorySource(copy), 'a', [], interest, budget, {
        scan: async (_, chunks) => {
          const text = await collect(chunks);
          return { isEmpty: false, dataUris: marksIn(text) };
        },
        done: async () => undefined,
        unread: (_, because) => expect(because).toMatch(/^(is|has|holds|takes) /),
      });
    }),
    { numRuns: RUNS, ...(RUNS === USUAL_RUNS && { seed: 20261125 }) },
  );
}, 3_600_000);
