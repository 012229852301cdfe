// A small packer of app packages, as a mobile toolchain has one: one zip, native libraries stored as they are, so that they can be
// run from where they stand, and the rest deflated.
import { createWriteStream, mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';

/** So that the same app is the same package. */
const mtime = new Date(Date.UTC(2026, 0, 1));

/** @param {string} path of the package @param {Record<string, string | Buffer>} files by their paths in it */
export async function pack(path, files) {
  const zip = new ZipFile();
  for (const [name, content] of Object.entries(files))
    zip.addBuffer(Buffer.from(content), name, { compress: !name.startsWith('lib/'), mtime });
  zip.end();
  mkdirSync(dirname(path), { recursive: true });
  await pipeline(zip.outputStream, createWriteStream(path));
}

/**
 * The texts of an app as its system reads them: a pool of strings, each with its length before it and a zero after it, in UTF-16.
 * @param {string[]} texts
 */
export function stringPool(texts) {
  const strings = texts.map((text) => {
    const bytes = Buffer.alloc(2 + 2 * text.length + 2);
    bytes.writeUInt16LE(text.length);
    bytes.write(text, 2, 'utf16le');
    return bytes;
  });
  const HEADER = 28;
  const start = HEADER + 4 * texts.length;
  const size = start + strings.reduce((sum, { length }) => sum + length, 0);
  const head = Buffer.alloc(start);
  head.writeUInt16LE(1);
  head.writeUInt16LE(HEADER, 2);
  [size, texts.length, 0, 0, start, 0].forEach((number, index) => head.writeUInt32LE(number, 4 + 4 * index));
  let at = 0;
  strings.forEach(({ length }, index) => {
    head.writeUInt32LE(at, HEADER + 4 * index);
    at += length;
  });
  return Buffer.concat([head, ...strings]);
}
