import type { Content } from './content.js';

const BLOCK = 8 * 1024;

/**
 * Reads texts at ascending places, one character per byte. A file may have thousands of places, so it is read in blocks; of an
 * embedded file, only the bytes around hits are there.
 */
export function latin1Reader({ read, where }: Pick<Content, 'read' | 'where'>): (from: number, to: number) => string {
  let [start, bytes] = [0, new Uint8Array(0)];
  return (from, to) => {
    if (where.inside.length > 0) return latin1(read(from, to));
    const isThere = start <= from && to <= start + bytes.length;
    if (!isThere) [start, bytes] = [from, read(from, Math.max(to, from + BLOCK)) as Uint8Array<ArrayBuffer>];
    return latin1(bytes.subarray(from - start, to - start));
  };
}

function latin1(bytes: Uint8Array): string {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
}
