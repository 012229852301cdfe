import type { Code } from '../findings/codes.js';
import type { Finding } from '../findings/finding.js';
import { isWrong } from '../resolve/value-state.js';
import { MASK } from '../secrets/secret.js';
import { displayText } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import type { AllValuesReport, ValueRow } from './documents.js';
import { cells, groupBy, wrap } from './layout.js';
import type { PrintOptions, Style } from './style.js';
import { fittedWidths, naturalWidths, renderTable } from './table.js';
import { countLine, findingLines } from './text-findings.js';
import { isHidden } from './text-values.js';

/** All stages side by side, what is wrong, and what to do in order. */
export function printAllValues(report: AllValuesReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const header = [style.strong('adder values'), 'all stages'].join('  ');
  const body = quiet ? [] : [header, '', matrix(report, options), '', ...findingLines(together(report), options)];
  return [...body, ...steps(report.findings, options), countLine(report.summary, options), ''].join('\n');
}

/** What several stages lack of one variable is said once: the table and the steps below say the rest. */
function together({ findings, stages }: AllValuesReport): Finding[] {
  const missing = groupBy(
    findings.filter(({ code }) => code === 'value/missing'),
    ({ variable = '' }) => variable,
  );
  return findings.flatMap((finding) => {
    const group = finding.code === 'value/missing' ? (missing.get(finding.variable ?? '') ?? []) : [];
    if (group.length < 2) return [finding];
    if (group[0] !== finding) return [];
    const without = group.map(({ stage }) => stage ?? '');
    const having = stages.map(({ stage }) => stage).filter((stage) => !without.includes(stage));
    const have = having.length === 0 ? '' : `; ${joinWords(having)} ${having.length === 1 ? 'has' : 'have'} it`;
    return [{ ...finding, message: `${finding.variable} is missing in ${joinWords(without)}${have}` }];
  });
}

function matrix({ stages }: AllValuesReport, { style, tableWidth }: PrintOptions): string {
  const heads = ['VARIABLE', 'REACH', ...stages.map(({ stage }) => stage)];
  const first = stages[0]?.values ?? [];
  const plain = first.map(({ name, reach }, index) => [
    name,
    reach,
    ...stages.map(({ values }) => cellText(values[index])),
  ]);
  const styled = first.map(({ name, reach }, index) => [
    name,
    style.reach(reach),
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

/** What has to be done first, so that the rest can be judged: files, then what is missing, then what is wrong. */
const order: readonly { codes: readonly Code[]; says(where: string): string }[] = [
  { codes: ['file/encoding', 'file/syntax'], says: (where) => `mend the lines that cannot be read: ${where}` },
  { codes: ['repo/misnamed'], says: (where) => `rename ${where}` },
  {
    codes: ['value/missing'],
    says: (where) => `give the missing values, with "adder fill STAGE" or by hand: ${where}`,
  },
  {
    codes: ['value/empty', 'value/malformed', 'value/unknown-reference', 'value/cycle', 'value/widened'],
    says: (where) => `mend the values: ${where}`,
  },
  { codes: ['value/not-distinct', 'value/not-same'], says: (where) => `set right between the stages: ${where}` },
  { codes: ['contract/risky-public'], says: (where) => `make sure that these may be public: ${where}` },
];

function steps(findings: readonly Finding[], { style, width }: PrintOptions): string[] {
  const lines = order.flatMap(({ codes, says }) => {
    const about = findings.filter(({ code, level }) => codes.includes(code) && level !== 'note');
    return about.length === 0 ? [] : [says(subjects(about))];
  });
  if (lines.length === 0) return [];
  const numbered = lines.flatMap((line, index) => {
    const number = `${index + 1}. `;
    return wrap(line, width - cells(number)).map((part, at) => (at === 0 ? number : ' '.repeat(number.length)) + part);
  });
  return [style.strong('What to do, in this order'), ...numbered, ''];
}

/** `development: A and B; staging: A`, or places of files. */
function subjects(findings: readonly Finding[]): string {
  const byStage = groupBy(findings, ({ code, stage }) => (isOfFile(code) ? '' : (stage ?? '')));
  const parts = [...byStage].map(([stage, ones]) => {
    const names = joinWords([...new Set(ones.map(subject))]);
    return stage === '' ? names : `${stage}: ${names}`;
  });
  return parts.join('; ');
}

function isOfFile(code: string): boolean {
  return code.startsWith('file/') || code.startsWith('repo/');
}

function subject({ code, variable, place }: Finding): string {
  if (!isOfFile(code)) return variable ?? place?.path ?? code;
  return place ? [place.path, place.line].filter((part) => part !== undefined).join(':') : code;
}
