import { count, displayText, localTime } from '../text/display.js';
import { byVariable } from '../trial/by-variable.js';
import { LOG } from '../trial/evidence.js';
import type { TrialReport } from './documents.js';
import type { PrintOptions } from './style.js';
import { fittedWidths, naturalWidths, renderTable } from './table.js';
import { findingLines } from './text-findings.js';
import { countLine } from './text-summary.js';

type Row = TrialReport['rows'][number];

/** A trial for a terminal: where each name is set, read and arrives, then findings. */
export function printTrial(report: TrialReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const header = [style.strong('adder trial'), report.stage, report.bundle].join('  ');
  const { files, unread } = report.coverage;
  const searched = [
    `searched ${count(files, 'file')} that the build wrote, and its log`,
    ...(report.isReused
      ? [`built at ${localTime(report.builtAt)}; nothing changed since, and --again builds again`]
      : []),
  ];
  const missing = unread.map(({ path, inside, because }) =>
    style.level('warning', `not known: ${displayText([path, ...inside].join(' → '))} ${displayText(because)}`),
  );
  const body = quiet
    ? []
    : [header, '', table(byVariable(report.rows), options), '', ...findingLines(report.findings, options)];
  const nothing = missing.length > 0 ? 'no problems in what is known' : style.good('no problems');
  return [...body, ...missing, countLine(report.summary, options, nothing), ...searched.map(style.dim), ''].join('\n');
}

function table(rows: readonly Row[], { style, tableWidth }: PrintOptions): string {
  const heads = ['NAME', 'REACH', 'SET IN', 'READ BY', 'ARRIVES IN'];
  const plain = rows.map((row) => [
    displayText(row.name),
    row.reach ?? 'undeclared',
    some(row.setIn),
    some(row.readBy),
    row.isUnmarked && row.arrivesIn.length === 0
      ? 'not known: too short, see --twice'
      : some(row.arrivesIn.map(arrivalText)),
  ]);
  const styled = plain.map(([name = '', reach = '', ...rest], index) => [
    name,
    rows[index]?.reach ? style.reach(rows[index].reach) : reach,
    ...rest.map((text) => (text === 'nothing' ? style.dim(text) : text)),
  ]);
  const widths = fittedWidths(naturalWidths([heads, ...plain]), tableWidth, [2, 3, 4]);
  return renderTable([heads.map((head) => style.dim(head)), ...styled], widths);
}

function arrivalText({ path, audience, encoding }: Row['arrivesIn'][number]): string {
  if (encoding[0] === 'difference') return `${displayText(path)} (differs)`;
  return audience === 'browser' || path === LOG ? displayText(path) : `${displayText(path)} (${audience})`;
}

/** The first of a list, and how many more there are. */
function some(all: readonly string[]): string {
  const [first, ...others] = [...new Set(all)];
  if (first === undefined) return 'nothing';
  return others.length === 0 ? displayText(first) : `${displayText(first)} and ${others.length} more`;
}
