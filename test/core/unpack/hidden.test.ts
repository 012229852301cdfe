import { randomBytes } from 'node:crypto';
import { crc32, deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { looksRandom } from '../../../src/core/unpack/formats/opaque.js';
import { files, hasPython, tarOf, walk, zipOf } from '../../support/unpack.js';

const secret = 'made-up key that no clean report may pass over';

/** One header of an ar archive, with its member. */
function arMember(name: string, bytes: Buffer): Buffer {
  const header = `${name.padEnd(16)}${'0'.padEnd(12)}${'0'.padEnd(6)}${'0'.padEnd(6)}${'644'.padEnd(8)}${String(bytes.length).padEnd(10)}\`\n`;
  return Buffer.concat([Buffer.from(header), bytes, Buffer.alloc(bytes.length % 2, '\n')]);
}

/** An archive of the seventh edition: a header without a mark. */
async function oldTarOf(contents: Record<string, string>): Promise<Buffer> {
  const archive = await tarOf(contents);
  for (
    let at = 0;
    archive[at] !== 0;
    at += 512 + Math.ceil(Number.parseInt(archive.toString('latin1', at + 124, at + 135), 8) / 512) * 512
  ) {
    archive.fill(0, at + 257, at + 345);
    archive.write('        ', at + 148, 'latin1');
    const sum = archive.subarray(at, at + 512).reduce((total, byte) => total + byte, 0);
    archive.write(`${sum.toString(8).padStart(6, '0')}\0 `, at + 148, 'latin1');
  }
  return archive;
}

/** A local header with deflated content after it, in no directory. */
function localEntry(name: string, text: string): Buffer {
  const data = deflateRawSync(text);
  const header = Buffer.alloc(30);
  header.write('PK\x03\x04', 'latin1');
  header.writeUInt16LE(20, 4);
  header.writeUInt16LE(8, 8);
  header.writeUInt32LE(crc32(text), 14);
  header.writeUInt32LE(data.length, 18);
  header.writeUInt32LE(text.length, 22);
  header.writeUInt16LE(name.length, 26);
  return Buffer.concat([header, Buffer.from(name), data]);
}

const emptyEnd = Buffer.concat([Buffer.from('PK\x05\x06', 'latin1'), Buffer.alloc(18)]);

describe('archives after something else', () => {
  const archive = hasPython ? zipOf(files) : Buffer.alloc(0);
  test.skipIf(!hasPython).each<[title: string, before: Buffer]>([
    ['a browser extension', Buffer.concat([Buffer.from('Cr24\x03\0\0\0', 'latin1'), randomBytes(600)])],
    [
      'a program that unpacks itself',
      Buffer.concat([Buffer.from('MZ\x90\0', 'latin1'), Buffer.alloc(90_000, 'code\0')]),
    ],
    ['a script', Buffer.from('#!/usr/bin/env python3\n')],
    ['a script of many lines', Buffer.from(`#!/bin/sh\n${'echo unpacking\n'.repeat(500)}exit\n`)],
  ])('%s', async (_, before) => {
    const walked = await walk(Buffer.concat([before, archive]), 'dist/installer');
    expect(walked).toEqual({ members: files, unread: {} });
    // Also inside another archive, as a stream.
    const outer = await walk(gzipSync(Buffer.concat([before, archive])), 'installer.gz');
    expect(outer?.members['installer » a.txt']).toBe('made-up key');
  });

  test.skipIf(!hasPython)('a member that the directory does not list', async () => {
    const hidden = localEntry('hidden.env', secret);
    const walked = await walk(Buffer.concat([hidden, archive]), 'app.apk');
    expect(walked?.members).toEqual({ ...files, 'hidden.env (not in the directory)': secret });
  });

  test('an end record without entries', async () => {
    const walked = await walk(Buffer.concat([localEntry('hidden.env', secret), emptyEnd]), 'app.apk');
    expect(walked?.members).toEqual({ 'hidden.env (not in the directory)': secret });
  });

  test('a truncated archive: the intact files, and a report of the damage', async () => {
    const walked = await walk(localEntry('a.env', secret), 'app.apk');
    expect(walked).toEqual({
      members: { 'a.env (not in the directory)': secret },
      unread: { '': 'is a damaged zip file' },
    });
  });
});

describe('formats that have no mark, or not at their beginning', () => {
  test('packages of Debian: the archive in the archive', async () => {
    const bytes = Buffer.concat([
      Buffer.from('!<arch>\n'),
      arMember('debian-binary', Buffer.from('2.0\n')),
      arMember('data.tar.gz', gzipSync(await tarOf({ 'usr/share/quay/.env': secret }))),
    ]);
    const walked = await walk(bytes, 'quay.deb');
    expect(walked?.members['data.tar.gz » data.tar » usr/share/quay/.env']).toBe(secret);
    expect(walked?.unread).toEqual({});
  });

  test('tar of the seventh edition', async () => {
    expect(await walk(await oldTarOf({ 'a.env': secret, 'b.txt': 'x' }), 'site')).toEqual({
      members: { 'a.env': secret, 'b.txt': 'x' },
      unread: {},
    });
  });

  test('zlib streams, .brotli, and what a PDF deflates', async () => {
    expect((await walk(deflateSync(secret.repeat(9)), 'blob.bin'))?.members).toEqual({ 'blob.bin': secret.repeat(9) });
    const { brotliCompressSync } = await import('node:zlib');
    expect((await walk(brotliCompressSync(secret), 'a.js.brotli'))?.members).toEqual({ 'a.js': secret });
    const stream = deflateSync(secret);
    const pdf = Buffer.concat([
      Buffer.from(`%PDF-1.7\n1 0 obj\n<< /Length ${stream.length} /Filter /FlateDecode >>\nstream\n`),
      stream,
      Buffer.from('\nendstream\nendobj\n%%EOF\n'),
    ]);
    expect(Object.values((await walk(pdf, 'fares.pdf'))?.members ?? {})).toEqual([secret]);
  });
});

describe('what cannot be opened is unread', () => {
  const text = (mark: string) => Buffer.concat([Buffer.from(mark, 'latin1'), Buffer.alloc(600, 'made-up ')]);
  const koly = Buffer.concat([Buffer.alloc(4096, 'made-up '), Buffer.from('koly'), Buffer.alloc(508)]);
  test.each<[name: string, bytes: Buffer]>([
    ['xz', text('\xfd7zXZ\0')],
    ['bzip2', text('BZh91AY&SY')],
    ['rpm', text('\xed\xab\xee\xdb')],
    ['cab', text('MSCF')],
    ['squashfs', text('hsqs')],
    ['lzma', text('\x5d\0\0\x80\0\xff\xff\xff\xff\xff\xff\xff\xff')],
    ['dmg', koly],
  ])('%s', async (name, bytes) => {
    expect((await walk(bytes, 'dist/thing'))?.unread).toEqual({ '': `is ${name}, which Adder does not unpack` });
  });

  test('bytes that look drawn by chance, but for pictures, sound and fonts', async () => {
    const why = 'looks compressed or encrypted, in an unknown format';
    const noise = randomBytes(40_000);
    expect((await walk(noise, 'values.enc'))?.unread).toEqual({ '': why });
    expect(await walk(Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47]), noise]), 'a.png')).toBeUndefined();
    expect(await walk(Buffer.from('plain text\n'.repeat(5000)), 'a')).toBeUndefined();
    expect((await walk(gzipSync(randomBytes(3000)), 'values.enc.gz'))?.unread).toEqual({ 'values.enc': why });
  });

  test('text and structured bytes are never taken for noise', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 120 }), { minLength: 512, maxLength: 5000 }), (bytes) => {
        expect(looksRandom(Uint8Array.from(bytes))).toBe(false);
      }),
    );
    for (const size of [512, 1000, 16_384]) expect(looksRandom(randomBytes(size))).toBe(true);
  });
});
