import Table from 'cli-table3';
import { cells } from './layout.js';

const GAP = 2;
const NARROWEST = 12;

const parts = ['top', 'bottom', 'left', 'right', 'mid', 'middle'].flatMap((side) => [
  side,
  `${side}-mid`,
  `${side}-left`,
  `${side}-right`,
]);
const borderless = Object.fromEntries(parts.map((part) => [part, '']));

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

/** A table without lines. A cell that is wider than its column is cut, and ends in `…`. */
export function renderTable(rows: readonly (readonly string[])[], widths: readonly number[]): string {
  return rows.map((row) => plainRow(row, widths) ?? cutRow(row, widths)).join('\n');
}

/** The usual row, whose cells fit: nothing has to be cut. The package takes longer for a large table than everything before it. */
function plainRow(row: readonly string[], widths: readonly number[]): string | undefined {
  let line = '';
  for (const [column, cell] of row.entries()) {
    const free = (widths[column] ?? 0) - cells(cell);
    if (free < GAP || cell.includes('\n')) return undefined;
    line += cell + ' '.repeat(free);
  }
  return line.trimEnd();
}

function cutRow(row: readonly string[], widths: readonly number[]): string {
  const style = { 'padding-left': 0, 'padding-right': GAP, head: [], border: [], compact: true };
  const table = new Table({ colWidths: [...widths], chars: borderless, style });
  table.push([...row]);
  return table
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}
