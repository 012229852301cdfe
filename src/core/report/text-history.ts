import { count, displayText, localTime } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import type { HistoryReport } from './documents.js';
import { padEnd, wrap } from './layout.js';
import { periodText } from './period.js';
import type { PrintOptions } from './style.js';

type Value = HistoryReport['values'][number];

/** Variables with the days of their values, for a terminal. */
export function printHistory(report: HistoryReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const { values, variable } = report;
  const header = [style.strong('adder history'), variable === undefined ? '' : style.strong(variable)]
    .filter(Boolean)
    .join('  ');
  const variables = [...groupBy(values, (one) => one.variable)].flatMap(([name, ones]) =>
    variableLines(name, ones, report, options),
  );
  const lines = quiet ? [] : [header, '', ...variables, ...problemLines(report, options)];
  return [...lines, historySummary(report), ''].join('\n');
}

/** The history in one line. */
export function historySummary({ values, state, closed }: HistoryReport): string {
  if (state === 'no key')
    return `past values: not checked; this machine has no key for ${count(closed, 'entry', 'entries')} (set ADDER_KEY, or copy .adder/key)`;
  const variables = new Set(values.map(({ variable }) => variable)).size;
  if (values.length === 0) return 'no value is recorded; `adder with STAGE -- COMMAND` records those of a stage';
  return `${count(values.length, 'value')} of ${count(variables, 'variable')}; no secret is stored, and each value can be recognised`;
}

function variableLines(name: string, values: readonly Value[], report: HistoryReport, options: PrintOptions): string[] {
  const { style } = options;
  const [first] = values;
  const stages = [...groupBy(values, ({ stage }) => stage)];
  const widest = Math.max(...stages.map(([stage]) => stage.length)) + 2;
  return [
    `${style.strong(displayText(name))}  ${first ? style.reach(first.reach) : ''}`,
    ...stages.flatMap(([stage, ones]) =>
      ones.map(
        (one, index) => `  ${padEnd(index === 0 ? displayText(stage) : '', widest)}${valueText(one, report, options)}`,
      ),
    ),
    '',
  ];
}

/** `2026-08-01 to 2026-09-03 (rotated)  in the build of ticket-desk, 2026-08-14 10:02`. */
function valueText(value: Value, { builds }: HistoryReport, { style }: PrintOptions): string {
  const { id, because } = value;
  const reason = because === undefined ? '' : ` (${displayText(because)})`;
  const [last] = builds
    .filter(({ values }) => values.includes(id))
    .toSorted((a, b) => (a.builtAt < b.builtAt ? 1 : -1));
  const built = last ? style.dim(`  last built into ${displayText(last.bundle)}, ${localTime(last.builtAt)}`) : '';
  return `${periodText(value)}${reason}${built}`;
}

function problemLines({ unread, closed, state, hidden }: HistoryReport, { style, width }: PrintOptions): string[] {
  const others =
    closed > 0 && state === 'open' ? [`${count(closed, 'entry', 'entries')} of another key cannot be read here`] : [];
  const all = [
    ...unread.map(({ path, because }) => `${displayText(path)} ${because}`),
    ...others,
    ...(hidden === undefined ? [] : [hidden]),
  ];
  return all.length === 0
    ? []
    : [...all.flatMap((line) => wrap(line, width)).map((line) => style.level('error', line)), ''];
}
