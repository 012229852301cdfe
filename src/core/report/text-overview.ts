import { verdictOf } from '../overview/next.js';
import type { BundleOverview, CheckOverview, Overview } from '../overview/overview.js';
import { count, displayText } from '../text/display.js';
import { joinWords, someWords } from '../text/nearest.js';
import { cells, padEnd, wrap } from './layout.js';
import { questionTexts } from './question-texts.js';
import type { PrintOptions, Style } from './style.js';

/** Where a project stands, on one screen. @param now for how long ago something was */
export function printOverview(overview: Overview, options: Pick<PrintOptions, 'style' | 'width'>, now: Date): string {
  const { contract, mistakes, stages, bundles, checks, next } = overview;
  const { style, width } = options;
  const title = contract && `${contract.path}, ${count(contract.variables, 'variable')}`;
  const rows: [string, [string, string][]][] = [
    ['mistakes', mistakes.slice(0, MOST_MISTAKES).map((text) => [displayText(text), ''])],
    ['stages', stages.map(({ stage, ...values }) => [stage, valuesText(values, style)])],
    ['bundles', bundles.map((one) => [one.bundle, buildText(one, style, now)])],
    [
      'checks',
      checks.map((one) => [[one.check, one.bundle, one.stage].filter(Boolean).join(' '), checkText(one, style, now)]),
    ],
  ];
  const shown = rows.filter(([, lines]) => lines.length > 0);
  const widest = Math.max(
    0,
    ...shown.flatMap(([head, lines]) => (head === 'mistakes' ? [] : lines.map(([name]) => cells(name)))),
  );
  const body = shown.flatMap(([head, lines]) => [
    style.dim(head.toUpperCase()),
    ...lines.flatMap(([name, text]) => row(name, text, { widest, width })),
    '',
  ]);
  const command =
    next.command === undefined ? [] : [`${style.dim('next:')} ${style.strong(displayText(next.command))}`];
  return [
    [style.strong('adder'), title].filter(Boolean).join('  '),
    '',
    ...body,
    ...command,
    ...wrap(displayText(next.because), width - 2).map((line) => `${command.length > 0 ? '  ' : ''}${line}`),
    '',
    style.dim('adder --help lists all commands'),
    '',
  ].join('\n');
}

const MOST_MISTAKES = 5;

/** A name and a text beside it, which goes on below itself. */
function row(name: string, text: string, { widest, width }: { widest: number; width: number }): string[] {
  if (text === '') return wrap(name, width - 2).map((line) => `  ${line}`);
  const indent = Math.min(widest, Math.floor(width / 3)) + 4;
  const [first = '', ...rest] = wrap(text, Math.max(20, width - indent));
  const head = `  ${padEnd(name, indent - 4)}  `;
  return [`${head}${first}`, ...rest.map((line) => `${' '.repeat(indent)}${line}`)];
}

function valuesText(
  { lacking, wrong }: { lacking: readonly string[]; wrong: readonly string[] },
  style: Style,
): string {
  const parts = [
    ...(lacking.length > 0 ? [`lacks ${someWords(lacking, 3)}`] : []),
    ...(wrong.length > 0 ? [`wrong: ${someWords(wrong, 3)}`] : []),
  ];
  return parts.length > 0 ? style.level('error', parts.join('; ')) : style.good('every value is there');
}

function buildText({ build, unread }: BundleOverview, style: Style, now: Date): string {
  if (unread !== undefined) return style.level('warning', unread);
  if (!build) return style.level('warning', 'no build through adder yet');
  return `built for ${build.stage} ${ago(build.at, now)}${sinceText(build.since, style, ', up to date')}`;
}

function checkText(check: CheckOverview, style: Style, now: Date): string {
  const answers = Object.entries(check.answers ?? {}).flatMap(([question, answer]) =>
    answer === 'not asked' ? [] : [`${questionTexts[question as keyof typeof questionTexts]}: ${answer}`],
  );
  const verdict = answers.length > 0 ? answers.join(', ') : verdictOf(check);
  const passed = check.passed ? style.good(verdict) : style.level('error', verdict);
  return `${ago(check.at, now)}, ${passed}${sinceText(check.since, style, '')}`;
}

function sinceText(since: readonly string[], style: Style, current: string): string {
  return since.length > 0 ? style.level('warning', `; since then ${joinWords(since)}`) : current;
}

const units = [
  ['day', 86_400],
  ['hour', 3600],
  ['minute', 60],
] as const;

/** How long ago something was, in one unit: `3 hours ago`. */
export function ago(iso: string, now: Date): string {
  const seconds = Math.max(0, (now.getTime() - Date.parse(iso)) / 1000);
  const [unit, size] = units.find(([, one]) => seconds >= one) ?? [];
  return unit === undefined ? 'just now' : `${count(Math.floor(seconds / size), unit)} ago`;
}
