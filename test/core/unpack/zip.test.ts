import { crc32, deflateRawSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { glimpseOf, memorySource } from '../../../src/core/unpack/format.js';
import { formatOf } from '../../../src/core/unpack/index.js';
import { walk } from '../../support/unpack.js';

/** An entry as it is written; what is absent is computed from the content. */
interface Entry {
  name: string | Buffer;
  content: string;
  method?: number;
  flags?: number;
  version?: number;
  crc?: number;
  /** In the local header; the content's own if absent. */
  size?: number;
  extra?: Buffer;
}

interface Archive {
  /** Entries that only have a local header. */
  hidden?: Entry[];
  listed?: Entry[];
  comment?: string;
  before?: Buffer;
  after?: Buffer;
  isZip64?: boolean;
}

const dataOf = ({ content, method = 0 }: Entry) =>
  method === 8 ? deflateRawSync(content) : Buffer.from(content, 'latin1');

/** The fields that both headers of an entry have, from the version on (APPNOTE, 4.3.7 and 4.3.12). */
function fieldsOf(entry: Entry, size: number): Buffer {
  const fields = Buffer.alloc(26);
  fields.writeUInt16LE(entry.version ?? 20, 0);
  fields.writeUInt16LE(entry.flags ?? 0, 2);
  fields.writeUInt16LE(entry.method ?? 0, 4);
  fields.writeUInt32LE(entry.crc ?? crc32(Buffer.from(entry.content, 'latin1')), 10);
  fields.writeUInt32LE(size, 14);
  fields.writeUInt32LE(entry.content.length, 18);
  fields.writeUInt16LE(Buffer.from(entry.name).length, 22);
  fields.writeUInt16LE(entry.extra?.length ?? 0, 24);
  return fields;
}

const local = (entry: Entry) =>
  Buffer.concat([
    Buffer.from('PK\x03\x04', 'latin1'),
    fieldsOf(entry, entry.size ?? dataOf(entry).length),
    Buffer.from(entry.name),
    entry.extra ?? Buffer.alloc(0),
    dataOf(entry),
  ]);

function listing(entry: Entry, offset: number): Buffer {
  const tail = Buffer.alloc(14);
  tail.writeUInt32LE(offset, 10);
  const fields = fieldsOf(entry, dataOf(entry).length);
  return Buffer.concat([
    Buffer.from('PK\x01\x02\x14\0', 'latin1'),
    fields,
    tail,
    Buffer.from(entry.name),
    entry.extra ?? Buffer.alloc(0),
  ]);
}

function zip({ hidden = [], listed = [], comment = '', before, after, isZip64 = false }: Archive): Buffer {
  const bodies = [...hidden, ...listed].map(local);
  let offset = hidden.reduce((sum, entry) => sum + local(entry).length, 0);
  const directory = Buffer.concat(
    listed.map((entry) => {
      const line = listing(entry, offset);
      offset += local(entry).length;
      return line;
    }),
  );
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 'latin1');
  end.writeUInt16LE(listed.length, 8);
  end.writeUInt16LE(listed.length, 10);
  end.writeUInt32LE(isZip64 ? 0xffffffff : directory.length, 12);
  end.writeUInt32LE(isZip64 ? 0xffffffff : offset, 16);
  end.writeUInt16LE(comment.length, 20);
  const wide = isZip64 ? zip64(listed.length, directory.length, offset) : Buffer.alloc(0);
  return Buffer.concat([
    before ?? Buffer.alloc(0),
    ...bodies,
    directory,
    wide,
    end,
    Buffer.from(comment),
    after ?? Buffer.alloc(0),
  ]);
}

/** The record and the locator of large archives (4.3.14 and 4.3.15). */
function zip64(count: number, size: number, offset: number): Buffer {
  const record = Buffer.alloc(56);
  record.write('PK\x06\x06', 'latin1');
  record.writeBigUInt64LE(44n, 4);
  for (const [at, one] of [
    [24, count],
    [32, count],
    [40, size],
    [48, offset],
  ] as const)
    record.writeBigUInt64LE(BigInt(one), at);
  const locator = Buffer.alloc(20);
  locator.write('PK\x06\x07', 'latin1');
  locator.writeBigUInt64LE(BigInt(offset + size), 8);
  locator.writeUInt32LE(1, 16);
  return Buffer.concat([record, locator]);
}

const a: Entry = { name: 'a.txt', content: 'made-up key of a' };
const b: Entry = { name: 'deep/b.txt', content: 'made-up key of b '.repeat(9), method: 8 };
const both = { 'a.txt': a.content, 'deep/b.txt': b.content };
/** Machine code, say. */
const code = Buffer.from(Array.from({ length: 900 }, (_, at) => (at * 7) % 23));

describe('members of an archive', () => {
  test.each<[title: string, archive: Archive]>([
    ['with a directory', {}],
    ['with a comment', { comment: 'made up' }],
    ['with the longest comment', { comment: 'x'.repeat(65_535) }],
    ['after a program', { before: code }],
    ['after a program and with a comment', { before: code, comment: 'made up' }],
    ['before other bytes', { before: code, after: Buffer.alloc(40) }],
    ['of a large archive', { isZip64: true }],
    ['with fields of their own', { listed: [{ ...a, extra: Buffer.from([0x34, 0x12, 4, 0, 1, 2, 3, 4]) }, b] }],
  ])('%s', async (_, archive) => {
    expect(await walk(zip({ listed: [a, b], ...archive }), 'app.bin')).toEqual({ members: both, unread: {} });
  });

  test('directories have no content, unless they have', async () => {
    const listed = [{ name: 'd/', content: '' }, { name: 'e/', content: 'made-up key' }, a];
    expect(await walk(zip({ listed }), 'a.zip')).toEqual({
      members: { 'e/': 'made-up key', 'a.txt': a.content },
      unread: {},
    });
  });

  test('names are UTF-8, or else Latin-1, with slashes', async () => {
    const listed = ['fähre.txt', Buffer.from('f\xe4hre-2.txt', 'latin1'), 'x\\y.txt'].map((name) => ({
      name,
      content: 'x',
    }));
    expect(Object.keys((await walk(zip({ listed }), 'a.zip'))?.members ?? {})).toEqual([
      'fähre.txt',
      'fähre-2.txt',
      'x/y.txt',
    ]);
  });

  test.each<[title: string, entry: Entry, because: string]>([
    ['encrypted', { ...a, flags: 1 }, 'is encrypted'],
    ['compressed in another way', { ...a, method: 12 }, 'is compressed by method 12, which Adder does not decompress'],
    ['with another checksum', { ...a, crc: 1 }, 'is damaged'],
  ])('one that is %s is listed, and the others are read', async (_, entry, because) => {
    const walked = await walk(zip({ listed: [entry, b] }), 'a.zip');
    expect(walked?.unread).toEqual({ 'a.txt': because });
    expect(walked?.members['deep/b.txt']).toBe(b.content);
  });
});

describe('members that the directory does not list', () => {
  const hiddenIn = async (hidden: Entry[], more: Archive = {}) => {
    const { members = {}, unread = {} } = (await walk(zip({ hidden, listed: [a], ...more }), 'a.zip')) ?? {};
    const { 'a.txt': _, ...others } = members;
    return { ...others, ...unread };
  };

  test.each<[title: string, entry: Entry, found: Record<string, string>]>([
    ['deflated', b, { 'deep/b.txt (not in the directory)': b.content }],
    ['stored', { name: 'b', content: 'made-up key of b' }, { 'b (not in the directory)': 'made-up key of b' }],
    ['whose size follows', { ...b, size: 0 }, { 'deep/b.txt (not in the directory)': b.content }],
    [
      'whose size is that of large archives',
      { ...b, size: 0xffffffff },
      { 'deep/b.txt (not in the directory)': b.content },
    ],
    ['encrypted', { ...b, flags: 1 }, { 'deep/b.txt (not in the directory)': 'is encrypted' }],
    [
      'compressed in another way',
      { ...b, method: 14 },
      { 'deep/b.txt (not in the directory)': 'is compressed by method 14, which Adder does not decompress' },
    ],
    ['of the newest version', { ...b, version: 63 }, { 'deep/b.txt (not in the directory)': b.content }],
    ['of no version that there is', { ...b, version: 64 }, {}],
    ['stored, whose size follows', { name: 'b', content: 'made-up key of b', size: 0 }, {}],
    ['without a name', { ...b, name: '' }, {}],
    ['with a name of 4097 bytes', { ...b, name: 'n'.repeat(4097) }, {}],
  ])('one %s', async (_, entry, found) => expect(await hiddenIn([entry])).toEqual(found));

  test('one with a name of 4096 bytes', async () => {
    expect(Object.values(await hiddenIn([{ ...b, name: 'n'.repeat(4096) }]))).toEqual([b.content]);
  });

  test('several of them, also where a window ends', async () => {
    const filler: Entry = { name: 'f', content: 'x'.repeat(256 * 1024 - 33) };
    const found = await hiddenIn([filler, { ...b, name: 'b1' }, { ...b, name: 'b2' }]);
    expect(Object.keys(found)).toEqual(['f', 'b1', 'b2'].map((name) => `${name} (not in the directory)`));
  });

  test('a gap of few bytes is none', async () => {
    const tiny: Entry = { name: '', content: 'x' };
    expect(await hiddenIn([tiny])).toEqual({});
  });
});

describe('no archive', () => {
  const isZip = (bytes: Buffer) => formatOf(glimpseOf(memorySource(bytes)), 'x')?.name === 'zip';
  const end = zip({});

  /** A program that ends with a record of these disks. */
  const ofDisks = (disk: number, first: number) => {
    const record = Buffer.from(end);
    record.writeUInt16LE(disk, 4);
    record.writeUInt16LE(first, 6);
    return Buffer.concat([code, record]);
  };

  test.each<[title: string, bytes: Buffer, expected: boolean]>([
    ['a record of disk 255', ofDisks(255, 255), true],
    ['a record of disk 256', ofDisks(256, 0), false],
    ['a record whose first disk is 256', ofDisks(0, 256), false],
    ['an empty archive', end, true],
    ['one after a program', Buffer.concat([code, end]), true],
    [
      'a text that ends with the mark',
      Buffer.concat([Buffer.from('a text\n'.repeat(90)), Buffer.from(`PK\x05\x06${' '.repeat(30)}`)]),
      false,
    ],
    [
      'a program with the mark among its bytes',
      Buffer.concat([code, Buffer.from('PK\x05\x06\xff\xff\xff\xff', 'latin1'), code]),
      false,
    ],
    ['a program with the mark among its last bytes', Buffer.concat([code, Buffer.from('PK\x05\x06')]), false],
    ['a program', code, false],
    ['fewer bytes than an end has', end.subarray(1), false],
  ])('%s: %s', (_, bytes, expected) => expect(isZip(bytes)).toBe(expected));

  test('a header alone is a damaged archive', async () => {
    const walked = await walk(Buffer.concat([local(a), Buffer.alloc(40)]), 'a.zip');
    expect(walked?.unread).toEqual({ '': 'is a damaged zip file' });
    expect(walked?.members).toEqual({ 'a.txt (not in the directory)': a.content });
  });
});
