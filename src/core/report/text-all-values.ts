import type { Code } from '../findings/codes.js';
import type { Finding } from '../findings/finding.js';
import { isWrong } from '../resolve/value-state.js';
import { MASK } from '../secrets/secret.js';
import { displayText } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import { firstWords } from '../text/nearest.js';
import type { AllValuesReport, ValueRow } from './documents.js';
import { wrap } from './layout.js';
import type { PrintOptions, Style } from './style.js';
import { fittedWidths, naturalWidths, renderTable } from './table.js';
import { findingLines } from './text-findings.js';
import { countLine } from './text-summary.js';
import { isHidden } from './text-values.js';
import { worded } from './worded.js';

/** All stages side by side, the findings, and what to do in which order. */
export function printAllValues(report: AllValuesReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const header = [style.strong('adder values'), 'all stages'].join('  ');
  const body = quiet ? [] : [header, '', matrix(report, options), '', ...findingLines(together(report), options)];
  return [...body, ...steps(report.findings, options), countLine(report.summary, options), ''].join('\n');
}

/** A value missing in several stages is one finding: the table and the steps name the stages. */
function together({ findings, stages }: AllValuesReport): Finding[] {
  const missing = groupBy(
    findings.filter(({ code }) => code === 'value/missing'),
    missingKey,
  );
  return findings.flatMap((finding) => {
    const group = finding.code === 'value/missing' ? (missing.get(missingKey(finding)) ?? []) : [];
    if (group.length < 2) return [finding];
    if (group[0] !== finding) return [];
    const without = group.map(({ stage }) => stage ?? '');
    const having = stages.map(({ stage }) => stage).filter((stage) => !without.includes(stage));
    return [worded({ ...finding, variant: 'stages', facts: { ...finding.facts, stages: without, setIn: having } })];
  });
}

function missingKey({ variable = '', bundle = '' }: Finding): string {
  return `${variable} ${bundle}`;
}

function matrix({ stages }: AllValuesReport, { style, tableWidth }: PrintOptions): string {
  const heads = ['VARIABLE', 'REACH', ...stages.map(({ stage }) => stage)];
  const first = stages[0]?.values ?? [];
  const named = ({ name, bundle }: ValueRow) => (bundle === undefined ? name : `${name} (${bundle})`);
  const plain = first.map((row, index) => [
    named(row),
    row.reach,
    ...stages.map(({ values }) => cellText(values[index])),
  ]);
  const styled = first.map((row, index) => [
    named(row),
    style.reach(row.reach),
    ...stages.map(({ values }) => cell(values[index], style)),
  ]);
  const widths = fittedWidths(
    naturalWidths([heads, ...plain]),
    tableWidth,
    stages.map((_, index) => index + 2),
  );
  return renderTable([heads.map((head) => style.dim(head)), ...styled], widths);
}

function cellText(row: ValueRow | undefined): string {
  if (!row) return '';
  if (isWrong(row.state)) return row.state;
  return displayText(row.value ?? (isHidden(row) ? MASK : 'not set'));
}

function cell(row: ValueRow | undefined, style: Style): string {
  const text = cellText(row);
  if (row && isWrong(row.state)) return style.level('error', text);
  return row?.value === undefined ? style.dim(text) : text;
}

/** The order of work: files first, because the rest depends on them; then missing values; then wrong ones. */
const order: readonly { codes: readonly Code[]; action: string }[] = [
  { codes: ['file/encoding', 'file/syntax'], action: 'fix the lines that cannot be parsed' },
  { codes: ['repo/misnamed'], action: 'rename the files' },
  { codes: ['value/missing'], action: 'set the missing values, such as with `adder fill STAGE`' },
  {
    codes: ['value/empty', 'value/malformed', 'value/unknown-reference', 'value/cycle', 'value/widened'],
    action: 'fix the wrong values',
  },
  { codes: ['value/not-distinct'], action: 'fix values that stages must not share' },
  { codes: ['value/not-same'], action: 'fix values that stages must share' },
  { codes: ['contract/risky-public'], action: 'check whether these values may be public' },
];

/** A numbered action, and under it one line for each stage that needs it. */
function steps(findings: readonly Finding[], { style, width }: PrintOptions): string[] {
  const actions = order.flatMap(({ codes, action }) => {
    const about = findings.filter(({ code, level }) => codes.includes(code) && level !== 'note');
    return about.length === 0 ? [] : [{ action, items: subjects(about) }];
  });
  if (actions.length === 0) return [];
  const lines = actions.flatMap(({ action, items }, index) => [
    `${index + 1}. ${action}`,
    ...items.flatMap((item) => wrap(item, width - 5).map((line, at) => (at === 0 ? '   ' : '     ') + line)),
  ]);
  return [style.strong('What to do'), ...lines, ''];
}

/** `development: A and B` for each stage, or the places in files. */
function subjects(findings: readonly Finding[]): string[] {
  const byStage = groupBy(findings, ({ code, stage }) =>
    isOfFile(code) || isBetweenStages(code) ? '' : (stage ?? ''),
  );
  return [...byStage].map(([stage, ones]) => {
    const names = firstWords([...new Set(ones.map(subject))]);
    return stage === '' ? names : `${stage}: ${names}`;
  });
}

function isBetweenStages(code: Code): boolean {
  return code === 'value/not-distinct' || code === 'value/not-same';
}

function isOfFile(code: string): boolean {
  return code.startsWith('file/') || code.startsWith('repo/');
}

function subject({ code, variable, place }: Finding): string {
  if (!isOfFile(code)) return variable ?? place?.path ?? code;
  return place ? [place.path, place.line].filter((part) => part !== undefined).join(':') : code;
}
