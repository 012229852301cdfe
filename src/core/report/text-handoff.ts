import { type HostState, wrongStates } from '../handoff/compare.js';
import { displayText } from '../text/display.js';
import type { HandoffReport } from './documents.js';
import { wrap } from './layout.js';
import type { PrintOptions } from './style.js';
import { fittedWidths, naturalWidths, renderTable } from './table.js';
import { findingLines } from './text-findings.js';
import { countLine } from './text-summary.js';

type ReportedHost = HandoffReport['hosts'][number];

const stateTexts: Readonly<Record<HostState, string>> = {
  same: 'same',
  valid: 'valid; no value here to compare',
  hidden: 'there, value hidden',
  absent: 'optional, not set',
  missing: 'missing',
  misspelt: 'misspelt',
  different: 'different',
  malformed: 'malformed',
  'wrong-scope': 'wrong scope',
  exposed: 'exposed to builds',
  extra: 'not in the contract',
};

/** The hosts of a stage for a terminal: a table of names for each, then findings. */
export function printHandoff(report: HandoffReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const header = [style.strong('adder handoff'), report.stage].join('  ');
  const tables = report.hosts.flatMap((host) => [...hostLines(host, options), '']);
  const body = quiet ? [] : [header, '', ...tables, ...findingLines(report.findings, options)];
  return [
    ...body,
    ...report.hosts.flatMap((host) => outcomeLines(host, options)),
    countLine(report.summary, options, nothingText(report, options)),
    '',
  ].join('\n');
}

function hostLines({ host, source, rows, because }: ReportedHost, { style, tableWidth }: PrintOptions): string[] {
  const title = `${style.strong(host)}  ${style.dim(displayText(source))}`;
  if (because !== undefined) return [title, style.level('error', `could not be compared: ${displayText(because)}`)];
  if (rows.length === 0) return [title, style.dim('needs no values')];
  const heads = ['NAME', 'REACH', 'FOR', 'STATE'];
  const plain = rows.map(({ name, reach = '', scopes, state, found }) => [
    displayText(name),
    reach,
    scopes.join(', '),
    found === undefined ? stateTexts[state] : `${stateTexts[state]} as ${displayText(found)}`,
  ]);
  const styled = plain.map(([name = '', reach = '', scopes = '', state = ''], index) => {
    const row = rows[index] as ReportedHost['rows'][number];
    const word = wrongStates.has(row.state)
      ? style.level('error', state)
      : row.state === 'same'
        ? style.good(state)
        : state;
    return [name, row.reach ? style.reach(row.reach) : reach, style.dim(scopes), word];
  });
  const widths = fittedWidths(naturalWidths([heads, ...plain]), tableWidth, [0, 3]);
  return [title, renderTable([heads.map((head) => style.dim(head)), ...styled], widths)];
}

function nothingText({ hosts }: HandoffReport, { style }: PrintOptions): string {
  const unread = hosts.filter(({ because }) => because !== undefined).length;
  if (unread === 0) return style.good('no problems');
  return unread === hosts.length ? 'nothing was compared' : 'no problems in what could be compared';
}

/** Results of `--apply`. */
function outcomeLines({ host, applied = [], without = [] }: ReportedHost, { style, width }: PrintOptions): string[] {
  const set = applied.filter(({ because }) => because === undefined).map(({ name }) => name);
  return [
    ...(set.length > 0 ? wrap(style.good(`set on ${host}: ${set.join(', ')}`), width) : []),
    ...applied.flatMap(({ name, because }) =>
      because === undefined
        ? []
        : [style.level('error', `not set on ${host}: ${name}: ${host} ${displayText(because)}`)],
    ),
    ...without.map(({ name, because }) => style.level('warning', `not set on ${host}: ${name} ${because}`)),
  ];
}
