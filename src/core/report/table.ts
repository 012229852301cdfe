import Table from 'cli-table3';
import { cells } from './layout.js';

const GAP = 2;

const parts = ['top', 'bottom', 'left', 'right', 'mid', 'middle'].flatMap((side) => [
  side,
  `${side}-mid`,
  `${side}-left`,
  `${side}-right`,
]);
const borderless = Object.fromEntries(parts.map((part) => [part, '']));

/** How wide each column has to be for its widest cell, in terminal cells, the gap behind it included. */
export function naturalWidths(rows: readonly (readonly string[])[]): number[] {
  return (rows[0] ?? []).map((_, column) => Math.max(...rows.map((row) => cells(row[column] ?? ''))) + GAP);
}

/** A table without lines. A cell that is wider than its column is cut, and ends in `…`. */
export function renderTable(rows: readonly (readonly string[])[], widths: readonly number[]): string {
  const style = { 'padding-left': 0, 'padding-right': GAP, head: [], border: [], compact: true };
  const table = new Table({ colWidths: [...widths], chars: borderless, style });
  table.push(...rows.map((row) => [...row]));
  return table
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}
