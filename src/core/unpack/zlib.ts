import nodeZlib from 'node:zlib';
import type { Codec } from './decompress.js';

/** Younger versions of Node.js have more than its types say. */
type Zlib = typeof import('node:zlib') & {
  createZstdDecompress?: Codec['stream'];
  zstdDecompress?: Codec['beside'];
  zstdDecompressSync?: Codec['whole'];
};

/** The module with what newer versions have. */
export const zlib: Zlib = nodeZlib;

const { inflateSync, inflate, createInflate, gunzipSync, gunzip, createGunzip } = nodeZlib;

/** Deflate with the header of zlib (RFC 1950). */
export const zlibCodec: Codec = { whole: inflateSync, beside: inflate, stream: createInflate };

/** Deflate with the header of gzip (RFC 1952). */
export const gzipCodec: Codec = { whole: gunzipSync, beside: gunzip, stream: createGunzip };

/** Brotli (RFC 7932). */
export const brotliCodec: Codec = {
  whole: nodeZlib.brotliDecompressSync,
  beside: nodeZlib.brotliDecompress,
  stream: nodeZlib.createBrotliDecompress,
};

/** The second byte of zlib's header, which makes the first two a multiple of 31 (RFC 1950, 2.2). */
export const ZLIB_LEVELS: readonly number[] = [0x01, 0x5e, 0x9c, 0xda];

/** How long a header of gzip is, which may hold a name and a comment (RFC 1952, 2.3). */
export function gzipHeader(bytes: Buffer): number {
  const flags = bytes[3] ?? 0;
  let at = 10;
  if (flags & 4) at += 2 + ((bytes[at] ?? 0) | ((bytes[at + 1] ?? 0) << 8));
  for (const text of [8, 16]) if (flags & text) at = bytes.indexOf(0, at) + 1 || bytes.length;
  return flags & 2 ? at + 2 : at;
}
