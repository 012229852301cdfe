import type { Format, Glimpse } from './format.js';
import { ar } from './formats/ar.js';
import { asar } from './formats/asar.js';
import { binary } from './formats/binary.js';
import { brotli, gzip, zlibStream, zstd } from './formats/compressed.js';
import { woff, woff2 } from './formats/fonts.js';
import { opaque } from './formats/opaque.js';
import { pdf } from './formats/pdf.js';
import { png } from './formats/png.js';
import { sourceMap } from './formats/source-map.js';
import { tar } from './formats/tar.js';
import { unopened } from './formats/unreadable.js';
import { zip } from './formats/zip.js';

/** One line per format: formats with a magic number first, then formats recognised by name, then unknown binary data. */
export const formats: readonly Format[] = [
  zip,
  gzip,
  zstd,
  tar,
  asar,
  ar,
  pdf,
  png,
  woff,
  woff2,
  ...unopened,
  zlibStream,
  sourceMap,
  brotli,
  opaque,
  binary,
];

/** Possible formats by the first byte of a file; the last entry is for empty files. */
const byFirstByte: (readonly Format[] | undefined)[] = Array(257);
const EMPTY = 256;

function possibleFormats(first: number): readonly Format[] {
  const possible = formats.filter(({ firstBytes }) => firstBytes?.includes(first) ?? true);
  byFirstByte[first] = possible;
  return possible;
}

/** @param name of the file or member */
export function formatOf(glimpse: Glimpse, name: string): Format | undefined {
  const { head } = glimpse;
  const first = head[0] ?? EMPTY;
  for (const format of byFirstByte[first] ?? possibleFormats(first))
    if (format.recognise(head, name, glimpse)) return format;
  return undefined;
}
