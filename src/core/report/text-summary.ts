import { type Answers, answerText } from '../conclude/answers.js';
import { type Coverage, questions } from '../findings/check.js';
import type { Summary } from '../findings/finding.js';
import { pastText } from '../findings/past.js';
import { placeText } from '../findings/place.js';
import { byteSize, count, grouped, localTime } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import { joinWords } from '../text/nearest.js';
import type { FindingsReport } from './documents.js';
import { padEnd, wrap } from './layout.js';
import { questionTexts } from './question-texts.js';
import type { PrintOptions } from './style.js';
import { changesLine } from './text-compared.js';
import { trialSentences } from './text-gate-trial.js';

/** Last lines of a report: findings by level, then what was checked, skipped and not searched. */
export function summaryLines(
  { summary, coverage, answers, checked = [], bundles = [], trials = [], served, ...compared }: FindingsReport,
  options: PrintOptions,
): string[] {
  if (compared.changes)
    return [
      changesLine(compared.changes, compared.findings),
      ...(answers ? answerLines(onlyUnknown(answers), options) : []),
      ...(coverage && coverage.unread.length > 0 ? coverageLines(coverage, options) : []),
    ];
  return [
    countLine(summary, options, nothingFound({ coverage, answers }, options)),
    ...(answers ? answerLines(answers, options) : []),
    ...bundleLines(bundles, options),
    ...trials.flatMap((one) => trialSentences(one).flatMap((sentence) => hanging(sentence, options))),
    ...checkedLines(checked, options),
    ...(served ? servedLines(served, options) : []),
    ...(coverage ? coverageLines(coverage, options) : []),
  ];
}

/** Answers that explain the exit code of a comparison. */
function onlyUnknown(answers: Answers): Answers {
  const entries = questions.map((question) => {
    const one = answers[question];
    return [question, one.answer === 'not known' ? one : { answer: 'not asked' as const }];
  });
  return Object.fromEntries(entries) as Answers;
}

/** The line of a report without findings: that there are none, or none in what could be checked. */
export function nothingFound(
  { coverage, answers }: { coverage?: Coverage | undefined; answers?: Answers | undefined },
  { style }: Pick<PrintOptions, 'style'>,
): string {
  if (coverage !== undefined && coverage.unread.length > 0) return 'no problems in the parts that could be read';
  const isKnown = !Object.values(answers ?? {}).some(({ answer }) => answer === 'not known');
  return isKnown ? style.good('no problems') : 'no problems in what could be checked';
}

/** Each question with its answer; under an unknown one, why, and what to do. */
function answerLines(answers: Answers, { style, width }: PrintOptions): string[] {
  const widest = Math.max(...questions.map((question) => questionTexts[question].length)) + 1;
  return questions.flatMap((question) => {
    const { answer, because = [] } = answers[question];
    if (answer === 'not asked') return [];
    const [yes = '', ...rest] = wrap(answerText(answers[question]), Math.max(30, width - widest - 2));
    const shown = {
      yes: [yes, ...rest.map((line) => `${' '.repeat(widest + 2)}${line}`)].map((line) => style.good(line)).join('\n'),
      no: style.level('error', 'no'),
      'not known': style.level('warning', answer),
    };
    const reasons = because.flatMap((one) => [
      ...wrap(one.because, width - 2).map((line) => `  ${line}`),
      ...wrap(`→ ${one.remedy}`, width - 2).map((line) => style.dim(`  ${line}`)),
    ]);
    return [`${padEnd(`${questionTexts[question]}:`, widest)}  ${shown[answer]}`, ...reasons];
  });
}

/** The three answers of each bundle, as a table. */
function bundleLines(bundles: NonNullable<FindingsReport['bundles']>, { style }: PrintOptions): string[] {
  if (bundles.length === 0) return [];
  const heads = ['bundle', 'nothing leaked', 'all there', 'current'];
  const rows = bundles.map(({ bundle, answers }) => [bundle, ...questions.map((question) => answers[question].answer)]);
  const widths = heads.map((head, column) => Math.max(...[heads, ...rows].map((row) => (row[column] ?? head).length)));
  const line = (row: readonly string[]) =>
    `  ${row.map((cell, column) => padEnd(cell, widths[column] ?? 0)).join('  ')}`.trimEnd();
  return [style.dim(line(heads)), ...rows.map(line)];
}

/** A sentence whose further lines are indented. */
function hanging(sentence: string, { width }: PrintOptions): string[] {
  return wrap(sentence, width - 2).map((line, index) => (index === 0 ? line : `  ${line}`));
}

/** Which build a site serves. */
function servedLines(
  { builds, unknown, requests, hosts }: NonNullable<FindingsReport['served']>,
  { width }: PrintOptions,
): string[] {
  const shown = builds.map(
    ({ stage, builtAt, files }) => `build for ${stage} of ${localTime(builtAt)} (${count(files, 'file')})`,
  );
  const others = unknown > 0 ? [`${count(unknown, 'file')} of no known build`] : [];
  const what = [...shown, ...others].join('; ');
  return [
    ...(what === '' ? [] : wrap(`serves: ${what}`, width)),
    `sent ${count(requests, 'request')} to ${joinWords(hosts)}`,
  ];
}

function checkedLines(checked: NonNullable<FindingsReport['checked']>, { style, width }: PrintOptions): string[] {
  if (checked.length === 0) return [];
  const done = checked.filter(({ state }) => state === 'checked').map(({ part }) => part);
  const skipped = checked.filter(({ state }) => state === 'skipped');
  return [
    ...wrap(`parts: ${done.join('; ')}`, width),
    ...skipped.map(({ part, because }) =>
      style.dim(`  skipped: ${part}${because === undefined ? '' : `, ${because}`}`),
    ),
  ];
}

/** @param nothing the text for a report without findings */
export function countLine(
  { error, warning, note, accepted }: Summary,
  { style }: Pick<PrintOptions, 'style'>,
  nothing = style.good('no problems'),
): string {
  const parts = [
    error > 0 && style.level('error', count(error, 'error')),
    warning > 0 && style.level('warning', count(warning, 'warning')),
    note > 0 && style.level('note', count(note, 'note')),
  ].filter((part) => part !== false);
  const found = parts.length > 0 ? joinWords(parts) : nothing;
  return accepted > 0 ? `${found}, and ${accepted} accepted` : found;
}

/** `3 files and 4 embedded files, 1.2 MB`. */
export function checkedText({ files, members, bytes }: Pick<Coverage, 'files' | 'members' | 'bytes'>): string {
  const embedded = members > 0 ? ` and ${count(members, 'embedded file')}` : '';
  return `${count(files, 'file')}${embedded}, ${byteSize(bytes)}`;
}

/** A claim that holds only if nothing was left out. */
export function completely({ skipped = [], notSearched = [] }: Coverage): string {
  return skipped.length + notSearched.length === 0 ? ', completely' : '';
}

function coverageLines(coverage: Coverage, options: PrintOptions): string[] {
  const { style, width } = options;
  const { unread, skipped = [], notSearched = [], past } = coverage;
  const checked = `checked ${checkedText(coverage)}`;
  const lines = [
    unread.length === 0
      ? `${checked}${completely(coverage)}`
      : `${checked}; ${style.level('error', `could not check ${count(unread.length, 'item')}`)}:`,
  ];
  lines.push(...listed(unread, ({ path, inside, because }) => `  ${placeText({ path, inside })} ${because}`));
  lines.push(
    ...listed(skipped, ({ path, inside, because }) => `  skipped: ${placeText({ path, inside })} ${because}`).map(
      style.dim,
    ),
  );
  if (notSearched.length > 0) {
    const byValue = groupBy(notSearched, ({ variable, because }) => `${variable}\n${because}`);
    const values = [...byValue.values()].map((ones) => {
      const { variable = '', because = '' } = ones[0] ?? {};
      return `${variable} of ${joinWords([...new Set(ones.map(({ stage }) => stage))])} (${because})`;
    });
    lines.push(...wrap(`not searched: ${values.join(', ')}`, width).map(style.dim));
  }
  if (past) lines.push(style.dim(pastText(past)));
  return lines;
}

/** More lines of one kind are counted. */
const MOST_LINES = 100;

function listed<T>(items: readonly T[], lineOf: (item: T) => string): string[] {
  const more = items.length - MOST_LINES;
  const rest = more > 0 ? [`  and ${grouped(more)} more (--format json lists all)`] : [];
  return [...items.slice(0, MOST_LINES).map(lineOf), ...rest];
}
