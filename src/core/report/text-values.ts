import { describeSource } from '../resolve/layer.js';
import { hasText, isWrong } from '../resolve/value-state.js';
import { MASK } from '../secrets/secret.js';
import { displayText } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import type { ValueRow, ValuesReport } from './documents.js';
import { wrap } from './layout.js';
import type { PrintOptions } from './style.js';
import { naturalWidths, renderTable } from './table.js';
import { sinceLines } from './text-changes.js';
import { findingLines } from './text-findings.js';
import { countLine } from './text-summary.js';

const VALUE_COLUMN = 2;
const FROM_COLUMN = 3;
const NARROWEST_VALUE = 18;

/** The values of a stage for a terminal: one line per variable, the findings, the summary. */
export function printValues(report: ValuesReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const { bundle } = report;
  const header = [style.strong('adder values'), report.stage, bundle].filter(Boolean).join('  ');
  const listed = layerLines(report, options);
  const body = quiet
    ? []
    : [
        header,
        ...listed,
        '',
        valuesTable(report, options),
        '',
        ...findingLines(report.findings, options),
        ...sinceLines(report.since ?? [], options),
      ];
  const set = report.values.filter(({ state }) => state === 'set' || state === 'default').length;
  return [
    ...body,
    `${set} of ${report.values.length} variables have a value; ${countLine(report.summary, options)}`,
    '',
  ].join('\n');
}

/** The layers in their order, for each bundle that has its own. */
function layerLines({ layers, bundle }: ValuesReport, { style, width }: PrintOptions): string[] {
  const groups = groupBy(layers, (layer) => layer.bundle ?? '');
  return [...groups].flatMap(([owner, group]) => {
    const names = group.map(({ name, state }) => (state === 'absent' ? `${name} (absent)` : name));
    const of = owner === '' || owner === bundle ? '' : ` of ${owner}`;
    return wrap(`layers${of} (the last one wins): ${names.join(', ')}`, width).map(style.dim);
  });
}

/** A table row, plain for measuring and with colours. */
interface ShownRow {
  plain: string[];
  styled: string[];
}

function valuesTable({ values: rows, bundle }: ValuesReport, options: PrintOptions): string {
  const { style, tableWidth } = options;
  const divided = bundle === undefined && rows.some((row) => row.bundle !== undefined);
  const heads = [bundle ? 'READ AS' : 'VARIABLE', 'REACH', 'VALUE', 'FROM', divided ? 'BUNDLE' : '', 'STATE'].filter(
    (head) => head !== '',
  );
  const shown = rows.map((row) => showRow(row, { bundle, divided }, options));
  const widths = naturalWidths([heads, ...shown.map(({ plain }) => plain)]);
  const excess = widths.reduce((sum, width) => sum + width, 0) - tableWidth;
  const valueWidth = (widths[VALUE_COLUMN] ?? 0) - Math.max(0, excess);
  if (excess > 0 && valueWidth < NARROWEST_VALUE) return stacked(shown);
  const fitted = widths.map((width, column) => (column === VALUE_COLUMN ? valueWidth : width));
  return renderTable([heads.map((head) => style.dim(head)), ...shown.map(({ styled }) => styled)], fitted);
}

function showRow(
  row: ValueRow,
  { bundle, divided }: { bundle: string | undefined; divided: boolean },
  { style }: PrintOptions,
): ShownRow {
  const owner = divided ? [row.bundle ?? ''] : [];
  const name = (bundle && row.names[bundle]) || row.name;
  const value = displayText(row.value ?? (isHidden(row) ? MASK : ''));
  const over = row.overrides.at(-1);
  const from = row.from ? displayText(describeSource(row.from) + (over ? ` over ${describeSource(over)}` : '')) : '';
  return {
    plain: [name, row.reach, value, from, ...owner, row.state],
    styled: [
      name,
      style.reach(row.reach),
      row.value === undefined ? style.dim(value) : value,
      style.dim(from),
      ...owner,
      isWrong(row.state) ? style.level('error', row.state) : row.state,
    ],
  };
}

/** For a terminal too narrow for columns: nothing is cut. */
function stacked(rows: readonly ShownRow[]): string {
  return rows
    .map(({ plain, styled }) => {
      const [name, reach, ...rest] = styled;
      const state = rest.slice(FROM_COLUMN - 1).join('  ');
      const below = [VALUE_COLUMN, FROM_COLUMN].filter((column) => plain[column] !== '');
      return [`${name}  ${reach}  ${state}`, ...below.map((column) => `  ${styled[column]}`)].join('\n');
    })
    .join('\n');
}

/** Tells whether the row has a value that must not be shown. */
export function isHidden({ value, state }: ValueRow): boolean {
  return value === undefined && hasText(state);
}
