import { MASK } from '../secrets/secret.js';
import { displayText } from '../text/display.js';
import type { ComparedRow, CompareReport, Relation } from './documents.js';
import type { PrintOptions } from './style.js';
import { fittedWidths, naturalWidths, renderTable } from './table.js';
import { findingLines } from './text-findings.js';
import { countLine } from './text-summary.js';

/** Differences first. */
const order: readonly Relation[] = ['only-first', 'only-second', 'different', 'same', 'neither'];

/** Two stages side by side for a terminal. */
export function printCompare(report: CompareReport, options: PrintOptions): string {
  const { style, quiet, tableWidth } = options;
  const [first, second] = report.stages;
  const words: Record<Relation, string> = {
    'only-first': `only ${first}`,
    'only-second': `only ${second}`,
    different: 'different',
    same: 'same',
    neither: 'in neither',
  };
  const rows = [...report.compared].sort((a, b) => order.indexOf(a.relation) - order.indexOf(b.relation));
  const heads = ['VARIABLE', 'REACH', first, second, 'RELATION'];
  const nameOf = ({ name, bundle }: ComparedRow) => (bundle === undefined ? name : `${name} (${bundle})`);
  const plain = rows.map((row) => [nameOf(row), row.reach, ...sides(row), words[row.relation]]);
  const styled = rows.map((row) => {
    const [one = '', other = ''] = sides(row).map((text) => (text === MASK || text === '' ? style.dim(text) : text));
    const word = words[row.relation];
    return [
      nameOf(row),
      style.reach(row.reach),
      one,
      other,
      row.relation.startsWith('only') ? style.level('warning', word) : word,
    ];
  });
  const widths = fittedWidths(naturalWidths([heads, ...plain]), tableWidth, [2, 3]);
  const header = `${style.strong('adder compare')}  ${first}  ${second}`;
  const table = renderTable([heads.map((head) => style.dim(head)), ...styled], widths);
  const body = quiet ? [] : [header, '', table, '', ...findingLines(report.findings, options)];
  const number = (relation: Relation) => rows.filter((row) => row.relation === relation).length;
  const counts = order
    .filter((relation) => number(relation) > 0)
    .map((relation) => `${number(relation)} ${words[relation]}`);
  return [...body, `${counts.join(', ')}; ${countLine(report.summary, options)}`, ''].join('\n');
}

function sides({ relation, first, second }: ComparedRow): [string, string] {
  const hasFirst = relation !== 'only-second' && relation !== 'neither';
  const hasSecond = relation !== 'only-first' && relation !== 'neither';
  const shown = (value: string | undefined, has: boolean) => displayText(value ?? (has ? MASK : ''));
  return [shown(first, hasFirst), shown(second, hasSecond)];
}
