import type { Codec } from './decompress.js';

/** Younger versions of Node.js have more than its types say. */
type Zlib = typeof import('node:zlib') & {
  createZstdDecompress?: Codec['stream'];
  zstdDecompress?: Codec['beside'];
  zstdDecompressSync?: Codec['whole'];
};

/** Loaded at first use: few runs find something compressed. A built-in module that is imported late is copied each time. */
export function zlib(): Zlib {
  return process.getBuiltinModule('node:zlib');
}
