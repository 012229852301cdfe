import type { Format } from './format.js';
import { asar } from './formats/asar.js';
import { brotli, gzip, zstd } from './formats/compressed.js';
import { sourceMap } from './formats/source-map.js';
import { tar } from './formats/tar.js';
import { unopened } from './formats/unreadable.js';
import { zip } from './formats/zip.js';

/** One line a format; those with a mark before the one that a name alone tells. */
const formats: readonly Format[] = [zip, gzip, zstd, tar, asar, ...unopened, sourceMap, brotli];

/** @param head the first bytes @param name of the file or member */
export function formatOf(head: Uint8Array, name: string): Format | undefined {
  return formats.find(({ recognise }) => recognise(head, name));
}
