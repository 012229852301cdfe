import { cells } from './layout.js';

const GAP = 2;
const NARROWEST = 12;

/** The width of each column's widest cell plus the gap, in terminal cells. */
export function naturalWidths(rows: readonly (readonly string[])[]): number[] {
  return (rows[0] ?? []).map((_, column) => Math.max(...rows.map((row) => cells(row[column] ?? ''))) + GAP);
}

/**
 * The widths that fit into a terminal: what is too much is taken from the columns that may shrink, from the widest first.
 * A column keeps {@link NARROWEST} cells.
 */
export function fittedWidths(widths: readonly number[], tableWidth: number, mayShrink: readonly number[]): number[] {
  const total = (limit: number) =>
    widths.reduce((sum, width, column) => sum + (mayShrink.includes(column) ? Math.min(width, limit) : width), 0);
  let limit = Math.max(...widths);
  while (limit > NARROWEST && total(limit) > tableWidth) limit--;
  return widths.map((width, column) => (mayShrink.includes(column) ? Math.min(width, limit) : width));
}

const ELLIPSIS = '…';

/** A table without lines. A cell that is wider than its column is cut, and ends in `…`. */
export function renderTable(rows: readonly (readonly string[])[], widths: readonly number[]): string {
  return rows.map((row) => rowLine(row, widths)).join('\n');
}

function rowLine(row: readonly string[], widths: readonly number[]): string {
  let line = '';
  for (const [column, cell] of row.entries()) {
    const width = widths[column] ?? 0;
    const text = cells(cell) <= width - GAP ? cell : cut(cell, width - GAP);
    line += text + ' '.repeat(Math.max(0, width - cells(text)));
  }
  return line.trimEnd();
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: the codes of colours begin with one
const colour = /\x1b\[[\d;]*m/g;

/** Keeps colours that surround the whole cell, and drops others. */
function cut(cell: string, width: number): string {
  const text = cell.replace(colour, '');
  const at = cell.indexOf(text);
  const [before, after] = at < 0 ? ['', ''] : [cell.slice(0, at), cell.slice(at + text.length)];
  let kept = '';
  let free = width - cells(ELLIPSIS);
  for (const character of text) {
    free -= cells(character);
    if (free < 0) break;
    kept += character;
  }
  return before + kept + ELLIPSIS + after;
}
