import type { Contents } from '../findings/contents.js';
import { placeText } from '../findings/place.js';
import { byteSize, count, displayText } from '../text/display.js';
import type { PrintOptions } from './style.js';
import { fittedWidths, naturalWidths, renderTable } from './table.js';

/** More files than this are not listed. */
const MOST_FILES = 20;

/** Which public values are in which files, and the largest files, as two tables. */
export function contentsLines({ values, files }: Contents, options: PrintOptions): string[] {
  const inFiles = values.map(({ variable, path, inside, places, origin }) => [
    variable,
    placeText({ path, inside }),
    count(places, 'place'),
    origin ? displayText(`${origin.path}:${origin.line}`) : '',
  ]);
  const largest = files
    .slice(0, MOST_FILES)
    .map(({ path, bytes, members }) => [
      displayText(path),
      byteSize(bytes),
      members > 0 ? count(members, 'embedded file') : '',
    ]);
  const more = files.length - largest.length;
  return [
    ...(inFiles.length > 0 ? tableLines(['PUBLIC VALUE', 'FILE', 'PLACES', 'SOURCE'], inFiles, [1, 3], options) : []),
    ...(largest.length > 0 ? tableLines(['FILE', 'SIZE', 'CONTAINS'], largest, [0], options) : []),
    ...(more > 0 ? [options.style.dim(`and ${count(more, 'smaller file')} (--format json lists all)`), ''] : []),
  ];
}

function tableLines(
  heads: readonly string[],
  rows: readonly (readonly string[])[],
  mayShrink: readonly number[],
  { style, tableWidth }: PrintOptions,
): string[] {
  const widths = fittedWidths(naturalWidths([heads, ...rows]), tableWidth, mayShrink);
  return [...renderTable([heads.map((head) => style.dim(head)), ...rows], widths).split('\n'), ''];
}
