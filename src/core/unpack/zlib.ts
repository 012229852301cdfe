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
