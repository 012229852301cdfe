import Table from 'cli-table3';
import { describeSource } from '../resolve/layers.js';
import { MASK } from '../secret.js';
import { displayText } from '../text/display.js';
import { cells } from './layout.js';
import type { ValueRow, ValuesReport } from './report.js';
import type { PrintOptions } from './style.js';
import { countLine, findingLines } from './text-findings.js';

const GAP = 2;
const NARROWEST_VALUE = 12;

/** The values of a stage for a terminal: one line a variable, then what is wrong, then what it comes to. */
export function printValues(
  report: ValuesReport,
  options: PrintOptions & { bundle?: string; layers?: readonly string[] },
): string {
  const { style, quiet, bundle, layers } = options;
  const header = [style.strong('adder values'), report.stage, bundle].filter(Boolean).join('  ');
  const listed = layers ? [style.dim(`layers, the last one wins: ${layers.join(', ')}`)] : [];
  const body = quiet
    ? []
    : [header, ...listed, '', valuesTable(report.values, options), '', ...findingLines(report.findings, options)];
  const set = report.values.filter(({ state }) => state === 'set' || state === 'default').length;
  return [
    ...body,
    `${set} of ${report.values.length} variables have a value; ${countLine(report.summary, options)}`,
    '',
  ].join('\n');
}

function valuesTable(
  rows: readonly ValueRow[],
  { style, tableWidth, bundle }: PrintOptions & { bundle?: string },
): string {
  const heads = [bundle ? 'READ AS' : 'VARIABLE', 'REACH', 'VALUE', 'FROM', 'STATE'];
  const plain = rows.map((row) => [
    (bundle && row.names[bundle]) || row.name,
    row.reach,
    displayText(row.value ?? (isHidden(row) ? MASK : '')),
    row.from ? displayText(describeSource(row.from)) : '',
    row.state,
  ]);
  const widths = columnWidths([heads, ...plain], tableWidth);
  const table = new Table({
    colWidths: widths,
    chars: borderless,
    style: { 'padding-left': 0, 'padding-right': GAP, head: [], border: [], compact: true },
  });
  table.push(heads.map((head) => style.dim(head)));
  rows.forEach((row, index) => {
    const [name = '', , value = '', from = '', state = ''] = plain[index] ?? [];
    const isWrong = row.state === 'missing' || row.state === 'malformed' || row.state === 'empty';
    table.push([
      name,
      style.reach(row.reach),
      row.value === undefined ? style.dim(value) : value,
      style.dim(from),
      isWrong ? style.level('error', state) : state,
    ]);
  });
  return table
    .toString()
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n');
}

function isHidden({ reach, state }: ValueRow): boolean {
  return reach !== 'public' && (state === 'set' || state === 'default' || state === 'malformed');
}

/** Each column as wide as its widest text; what does not fit is taken from the values, then from where they come from. */
function columnWidths(rows: readonly (readonly string[])[], width: number): number[] {
  const widths = (rows[0] ?? []).map((_, column) => Math.max(...rows.map((row) => cells(row[column] ?? ''))) + GAP);
  for (const column of [2, 3, 0]) {
    const excess = widths.reduce((sum, one) => sum + one, 0) - width;
    if (excess > 0) widths[column] = Math.max(NARROWEST_VALUE, (widths[column] ?? 0) - excess);
  }
  return widths;
}

const borderless = Object.fromEntries(
  [
    'top',
    'top-mid',
    'top-left',
    'top-right',
    'bottom',
    'bottom-mid',
    'bottom-left',
    'bottom-right',
    'left',
    'left-mid',
    'mid',
    'mid-mid',
    'right',
    'right-mid',
    'middle',
  ].map((part) => [part, '']),
);
