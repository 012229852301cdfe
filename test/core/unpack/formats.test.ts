import { randomBytes } from 'node:crypto';
import { brotliCompressSync, deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { glimpseOf, glimpseOfBytes, isBinary, memorySource, piecesOf } from '../../../src/core/unpack/format.js';
import { gzip } from '../../../src/core/unpack/formats/compressed.js';
import { sourcesIn } from '../../../src/core/unpack/formats/source-map.js';
import { formatOf } from '../../../src/core/unpack/index.js';
import { memberAt } from '../../../src/core/unpack/member.js';
import { gzipHeader } from '../../../src/core/unpack/zlib.js';
import { asarOf, collect, tarOf, walk } from '../../support/unpack.js';

const nameOf = (bytes: Uint8Array | string, name = 'x') => formatOf(glimpseOfBytes(Buffer.from(bytes)), name)?.name;
const latin1 = (text: string) => Buffer.from(text, 'latin1');

describe('bytes are no text', () => {
  const text = 'a'.repeat(98);
  test.each([
    ['two control characters in a hundred', `${text}\0\x01`, false],
    ['three', `${text}\0\x01\x02`, true],
    ['white space, in lines and pages', '\t\n\v\f\r'.repeat(20), false],
    ['escape sequences of terminals', '\x1b[1m'.repeat(20), false],
    ['a byte before a tab', '\x08'.repeat(9), true],
    ['a byte after a line end', '\x0e'.repeat(9), true],
    ['the last control character', '\x1f'.repeat(9), true],
    ['a space', ' '.repeat(9), false],
    ['nothing', '', false],
  ])('%s', (_, bytes, expected) => expect(isBinary(latin1(bytes))).toBe(expected));

  test('by samples of a large file at odd distances', () => {
    expect(isBinary(Buffer.from('a'.repeat(200_000), 'utf16le'))).toBe(true);
  });
});

describe('a format by its first bytes', () => {
  const header = (text: string) => Buffer.concat([latin1(text), Buffer.alloc(20)]);
  test.each([
    ['gzip', '\x1f\x8b\x08', '\x1f\x8b\x07'],
    ['zstd', '\x28\xb5\x2f\xfd', '\x28\xb5\x2f\xfc'],
    ['ar', '!<arch>\n', '!<arch> '],
    ['PDF', '%PDF-', '%PDF+'],
    ['PNG', '\x89PNG\r\n\x1a\n', '\x89PNG\n\n\x1a\n'],
    ['WOFF', 'wOFF', 'wOFX'],
    ['WOFF2', 'wOF2', 'wOF3'],
    ['asar', '\x04\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0{"files":', '\x04\0\0\x01\0\0\0\0\0\0\0\0\0\0\0\0{"files":'],
    ['asar', '\x04\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0{"files":', '\x04\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0{"filez":'],
    ['zlib', '\x78\x9c\x01\x02\x03\x04\x05\x06\x07', 'x\x9dabcdefg'],
    ['zlib', '\x78\x01\x01\x02\x03\x04\x05\x06\x07', `x\x01${' a text of letters'.repeat(4)}`],
    ['zlib', '\x78\x5e\x01\x02\x03\x04\x05\x06\x07', 'x^2'],
    ['zlib', '\x78\xda\x01\x02\x03\x04\x05\x06\x07', 'y\xda'],
    ['source map', '{"version":3', '{"versions":3'],
    ['source map', ')]}\'\n{"mappings":""', ')]}{"mappings":""'],
  ])('%s', (name, begins, other) => {
    expect(nameOf(name === 'source map' || name === 'zlib' ? latin1(begins) : header(begins))).toBe(name);
    expect(nameOf(latin1(other))).not.toBe(name);
  });

  test('a text that begins as zlib does is none, and neither is a short one', () => {
    expect(nameOf(latin1(`x\x9c${'a'.repeat(300)}`))).toBeUndefined();
    expect(nameOf(latin1('\x78\x9c\0\0\0\0\0\0'))).toBe('binary');
  });

  test('by its name', () => {
    expect([nameOf('a', 'a.js.br'), nameOf('a', 'a.js.brotli'), nameOf('a', 'a.br.js')]).toEqual([
      'brotli',
      'brotli',
      undefined,
    ]);
    expect([nameOf('{"x":1}', 'a.map'), nameOf('{"x":1}', 'a.json')]).toEqual(['source map', undefined]);
  });

  test('a text in brackets is no source map, whatever its name', () => {
    expect([nameOf(') a', 'a.map'), nameOf(")]}'\n{}", 'a.map')]).toEqual([undefined, 'source map']);
  });

  test('is dense only if more than half of its samples are', () => {
    const [dense, code] = [randomBytes(16_384), Buffer.alloc(16_384, 1)];
    const glimpse = (samples: Buffer[]) => ({ head: dense.fill(1, 0, 8), tail: code, samples, size: 40_000 });
    expect(formatOf(glimpse([dense, code]), 'x')?.name).toBe('binary');
    expect(formatOf(glimpse([dense, dense, code]), 'x')?.name).toBe('opaque');
  });

  test('looks random from 512 bytes on', () => {
    expect([nameOf(randomBytes(1024)), nameOf(randomBytes(512).subarray(0, 511))]).toEqual(['opaque', 'binary']);
  });
});

describe('the name of what is compressed', () => {
  test.each([
    ['dist/a.js.gz', 'a.js'],
    ['site.tgz', 'site.tar'],
    ['a.GZ', 'a'],
    ['other', 'other'],
  ])('%s: %s', async (container, name) => {
    expect(await walk(gzipSync('x'), container)).toEqual({ members: { [name]: 'x' }, unread: {} });
  });
});

describe('a header of gzip', () => {
  const fixed = [0x1f, 0x8b, 8];
  const rest = [0, 0, 0, 0, 0, 3];
  test.each([
    ['has ten bytes', 0, [], 10],
    ['with a field of two bytes', 4, [2, 0, 7, 7], 14],
    ['with a field of 257 bytes', 4, [1, 1, ...Array(257).fill(7)], 269],
    ['with a name', 8, [...latin1('a.js\0')], 15],
    ['with a comment', 16, [...latin1('hi\0')], 13],
    ['with a name and a comment', 24, [...latin1('a\0b\0')], 14],
    ['with a sum', 2, [9, 9], 12],
    ['with all of them', 30, [1, 0, 7, ...latin1('a\0b\0'), 9, 9], 19],
  ])('%s', (_, flags, more, length) => {
    const bytes = Buffer.from([...fixed, flags, ...rest, ...more, 0xff, 0xff]);
    expect(gzipHeader(bytes)).toBe(length);
  });

  test('whose name has no end is all there is', () => {
    const bytes = Buffer.from([...fixed, 8, ...rest, 97, 97]);
    expect(gzipHeader(bytes)).toBe(bytes.length);
  });

  test('tells where the content is', async () => {
    const bytes = gzipSync('made-up key');
    for await (const member of gzip.members(memorySource(bytes), 'a.gz'))
      expect(member).toMatchObject({ stored: { offset: 10, length: bytes.length - 10 } });
  });
});

describe('an ar archive', () => {
  const entry = (name: string, length: number | string, content: string, end = '`\n') =>
    `${name.padEnd(48)}${String(length).padEnd(10)}${end}${content}`;
  const ar = (...entries: string[]) => walk(latin1(`!<arch>\n${entries.join('')}`), 'a.deb');

  test.each([
    [
      'names end with a slash, and members begin at even offsets',
      [entry('a.txt/', 3, 'abc\n'), entry('b', 2, 'de')],
      { 'a.txt': 'abc', b: 'de' },
    ],
    ['a name may be missing', [entry('/', 1, 'x')], { 'member@68': 'x' }],
    ['a member may be empty', [entry('a', 0, '')], { a: '' }],
  ])('%s', async (_, entries, members) => expect(await ar(...entries)).toEqual({ members, unread: {} }));

  test.each([
    ['no end of a header', entry('a', 1, 'x', '``')],
    ['no length', entry('a', 'x', 'x')],
    ['a length below zero', entry('a', -1, 'x')],
    ['a member that is longer than the archive', entry('a', 2, 'x')],
  ])('%s is damage', async (_, text) => expect((await ar(text))?.unread).toEqual({ '': 'is a damaged ar file' }));
});

describe('an asar archive', () => {
  const asar = (files: object, content: string) => {
    const header = Buffer.from(JSON.stringify({ files }));
    const numbers = Buffer.alloc(16);
    for (const [at, one] of [4, header.length + 8, header.length + 4, header.length].entries())
      numbers.writeUInt32LE(one, 4 * at);
    return walk(Buffer.concat([numbers, header, Buffer.from(content)]), 'app.asar');
  };

  test('has files in directories, and neither links nor files beside it', async () => {
    const files = {
      a: { offset: '0', size: 2 },
      deep: { files: { b: { offset: '2', size: 3 } } },
      none: { offset: '5', size: 0 },
      link: { link: 'a', size: 2, offset: '0' },
      beside: { unpacked: true, size: 9 },
    };
    expect(await asar(files, 'AABBB')).toEqual({ members: { a: 'AA', 'deep/b': 'BBB', none: '' }, unread: {} });
  });

  test.each([
    ['beyond its end', { offset: '3', size: 3 }],
    ['before its beginning', { offset: '-900', size: 1 }],
    ['with a size below zero', { offset: '0', size: -1 }],
    ['at no offset', { offset: 'x', size: 1 }],
  ])('a file %s is listed', async (_, file) => {
    expect((await asar({ a: file }, 'AABBB'))?.unread).toEqual({ a: 'has its content outside the archive' });
  });

  test('a header that is longer than the archive is damage', async () => {
    const bytes = await asarOf({ 'a.txt': 'x' });
    bytes.writeUInt32LE(bytes.length - 15, 12);
    expect((await walk(bytes, 'a.asar'))?.unread).toEqual({ '': 'is a damaged asar file' });
  });
});

describe('a PDF', () => {
  const object = (dictionary: string, content: Buffer | string, end = '\n') =>
    Buffer.concat([
      latin1(`1 0 obj <<${dictionary}>> stream${end}`),
      Buffer.from(content),
      latin1('endstream endobj '),
    ]);
  const pdf = async (...objects: Buffer[]) => {
    const walked = await walk(Buffer.concat([latin1('%PDF-1.7 '), ...objects]), 'a.pdf');
    return [Object.values(walked?.members ?? {}), Object.values(walked?.unread ?? {})];
  };
  const flate = deflateSync('made-up key');

  test.each<[title: string, object: Buffer, members: string[], unread: string[]]>([
    ['a deflated stream is opened', object('/Filter /FlateDecode', flate), ['made-up key'], []],
    ['by its short name', object('/Filter /Fl', flate), ['made-up key'], []],
    ['after a line end of two bytes', object('/Filter /FlateDecode', flate, '\r\n'), ['made-up key'], []],
    ['a stream without a filter is text', object('/Length 3', 'abc'), [], []],
    ['a picture has none', object('/Filter /DCTDecode', 'abc'), [], []],
    ['nor has a deflated picture', object('/Subtype /Image /Filter /FlateDecode', flate), [], []],
    ['nor has a font', object('/Length1 9 /Filter /FlateDecode', flate), [], []],
    ['another filter is listed', object('/Filter /LZWDecode', 'abc'), [], ['uses a filter that Adder does not decode']],
  ])('%s', async (_, bytes, members, unread) => expect(await pdf(bytes)).toEqual([members, unread]));

  test('each stream has its own dictionary', async () => {
    expect(await pdf(object('/Subtype /Image', 'x'), object('/Filter /FlateDecode', flate))).toEqual([
      ['made-up key'],
      [],
    ]);
  });

  test('a stream without an end is none', async () => {
    expect(await pdf(latin1('<< /Filter /FlateDecode >> stream\nabc'))).toEqual([[], []]);
  });

  test.each(['/Encrypt 12 0 R', '/Encrypt  1\n20  R'])('%j is encrypted', async (text) => {
    expect(await pdf(latin1(text), object('/Filter /FlateDecode', flate))).toEqual([[], ['is encrypted']]);
  });

  test('the word alone is no encryption', async () => {
    expect(await pdf(latin1('/EncryptMetadata 1 0 R'), object('/Filter /FlateDecode', flate))).toEqual([
      ['made-up key'],
      [],
    ]);
  });
});

describe('a tar archive', () => {
  test('links and directories are no members, and contiguous files are', async () => {
    const bytes = await tarOf({ a: 'AA', b: 'BB', c: 'CC' });
    const setType = (at: number, type: string) => {
      bytes.write(type, at + 156, 'latin1');
      bytes.fill(' ', at + 148, at + 156);
      const sum = bytes.subarray(at, at + 512).reduce((total, byte) => total + byte, 0);
      bytes.write(`${sum.toString(8).padStart(6, '0')}\0 `, at + 148, 'latin1');
    };
    setType(0, '7');
    setType(1024, '2');
    expect((await walk(bytes, 'a.tar'))?.members).toEqual({ a: 'AA', c: 'CC' });
  });

  test.each([
    ['with another sum', (head: Buffer) => head.write('7', 150, 'latin1')],
    ['without a name', (head: Buffer) => head.writeUInt8(0, 0)],
    ['with letters in its sum', (head: Buffer) => head.write('x', 148, 'latin1')],
    ['with more after its sum', (head: Buffer) => head.write('7', 154, 'latin1')],
  ])('without its mark, and %s, it is none', async (_, change) => {
    const bytes = await tarOf({ a: 'AA' });
    bytes.fill(0, 257, 345);
    bytes.fill(' ', 148, 156);
    const sum = bytes.subarray(0, 512).reduce((total, byte) => total + byte, 0);
    bytes.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148, 'latin1');
    expect(nameOf(bytes)).toBe('tar');
    change(bytes);
    expect(nameOf(bytes)).not.toBe('tar');
  });
});

describe('an embedded file by the names that lead to it', () => {
  const at = async (bytes: Uint8Array, name: string, path: string[], most = 1000) =>
    (await memberAt(memorySource(bytes), name, path, most))?.toString();

  test('in one container, and in another in it', async () => {
    const inner = await asarOf({ 'a.txt': 'AA', 'b.txt': 'BB' });
    const outer = await tarOf({ 'x.txt': 'XX', 'app.asar': inner });
    expect(await at(outer, 'a.tar', ['x.txt'])).toBe('XX');
    expect(await at(outer, 'a.tar', ['app.asar', 'b.txt'], inner.length)).toBe('BB');
  });

  test('is as large as it may be, and no larger', async () => {
    const bytes = await tarOf({ 'x.txt': 'XX' });
    expect([await at(bytes, 'a.tar', ['x.txt'], 2), await at(bytes, 'a.tar', ['x.txt'], 1)]).toEqual(['XX', undefined]);
  });

  test.each<[title: string, bytes: () => Promise<Buffer>, path: string[]]>([
    ['of another name', () => tarOf({ a: 'AA' }), ['b']],
    ['in what is no container', async () => Buffer.from('text'), ['a']],
    ['in a source map', async () => Buffer.from('{"version":3,"sources":["a"],"sourcesContent":["x"]}'), ['a']],
    ['that cannot be read', async () => deflateRawSync('x').subarray(1), ['a']],
    ['in damage', async () => gzipSync('made-up key').subarray(0, 14), ['x']],
  ])('%s is none', async (_, bytes, path) => expect(await at(await bytes(), 'x', path)).toBeUndefined());
});

describe('members that are read again', () => {
  test('a stream that was begun before it was asked for gives the same', async () => {
    const source = memorySource(gzipSync('made-up key '.repeat(9000)));
    gzip.begin?.(source);
    for await (const member of gzip.members(source, 'a.gz')) {
      if (!('chunks' in member)) throw new Error('it is readable');
      for (let time = 0; time < 2; time++)
        expect((await collect(member.chunks())).toString()).toBe('made-up key '.repeat(9000));
    }
  });

  test('pieces of a source end where it ends', () => {
    const source = memorySource(Buffer.from('abcdef'));
    const text = (start: number, end: number) => Buffer.concat([...piecesOf(source, start, end)]).toString();
    expect([text(1, 3), text(4, 99), text(6, 9)]).toEqual(['bc', 'ef', '']);
  });

  test('a glimpse of a small source is all of it', () => {
    const glimpse = glimpseOf(memorySource(Buffer.from('abc')));
    expect([glimpse.head, glimpse.tail, ...glimpse.samples].map((bytes) => Buffer.from(bytes).toString())).toEqual([
      'abc',
      'abc',
      'abc',
    ]);
  });
});

test.each([
  ['no root', {}, ['a.js']],
  ['an empty root', { sourceRoot: '' }, ['a.js']],
  ['a root', { sourceRoot: 'src' }, ['src/a.js']],
  ['a root with a slash', { sourceRoot: 'src/' }, ['src/a.js']],
])('the addresses of the sources of a map with %s', (_, more, addresses) => {
  const map = { version: 3, sources: ['a.js', null], sourcesContent: ['x', 'y'], ...more };
  expect(sourcesIn(Buffer.from(JSON.stringify(map)))).toEqual(addresses);
});

test('brotli that is damaged says so', async () => {
  expect((await walk(brotliCompressSync('made-up key').subarray(2), 'a.js.br'))?.unread).toEqual({
    'a.js': 'is damaged',
  });
});
