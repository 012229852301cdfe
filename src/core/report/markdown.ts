import { answerText } from '../conclude/answers.js';
import { questions } from '../findings/check.js';
import { compareLevels, type Level } from '../findings/codes.js';
import type { Finding } from '../findings/finding.js';
import { placeText } from '../findings/place.js';
import { count, displayText, grouped } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import { catalogue } from '../words/catalogue.js';
import type { FindingsReport, Report } from './documents.js';
import type { ReportChanges } from './findings-report.js';
import { headline } from './headline.js';
import { madeText } from './made.js';
import { questionTexts } from './question-texts.js';
import { gapsOf } from './remarks.js';
import { answerChangeText, changesLine, goneLines } from './text-compared.js';
import { checkedText, completely } from './text-summary.js';

/** Comments of code hosts have at most 65,536 characters. */
const MOST_CHARACTERS = 60_000;
/** Places of one statement that are listed. */
const MOST_PLACES = 10;

const marks: Readonly<Record<Level, string>> = { error: '🔴', warning: '🟠', note: '🔵' };

/** A report that fits into a review comment: answers and counts first, then findings by cause, folded if there are many. */
export function printMarkdown(report: Report): string {
  const stage = 'stage' in report && report.stage ? ` for ${inline(report.stage)}` : '';
  const changes = report.kind === 'findings' ? report.changes : undefined;
  const head = changes
    ? changesHead(changes, report as FindingsReport, stage)
    : [
        `### adder ${inline(report.command)}${stage}: ${headline(report)}`,
        '',
        ...(report.made ? [`_${inline(madeText(report.made))}_`, ''] : []),
        ...(report.kind === 'findings' ? [...answerRows(report), ...coverageLines(report)] : []),
      ];
  return withinLimit(head, sections(report.findings));
}

/** Head of a comparison of two reports, with the findings that are gone folded. The new findings follow it as in any report. */
function changesHead(changes: ReportChanges, { command, findings, coverage }: FindingsReport, stage: string): string[] {
  const gone = goneLines(changes, coverage?.unread.length ?? 0).map((line) => `- ${inline(line)}`);
  return [
    `### adder ${inline(command)}${stage}: ${inline(changesLine(changes, findings))}`,
    '',
    ...changes.answers.map((one) => `- ${inline(answerChangeText(one))}`),
    ...(changes.answers.length > 0 ? [''] : []),
    ...(gone.length > 0 ? ['<details><summary>Gone</summary>', '', ...gone, '', '</details>', ''] : []),
  ];
}

/** As many sections as fit; what is left out is said. */
function withinLimit(head: readonly string[], parts: readonly { text: string; findings: number }[]): string {
  let text = `${head.join('\n').trimEnd()}\n`;
  let left = parts.reduce((sum, { findings }) => sum + findings, 0);
  for (const part of parts) {
    if (text.length + part.text.length > MOST_CHARACTERS) break;
    text += part.text;
    left -= part.findings;
  }
  return left === 0 ? text : `${text}\n_${count(left, 'more finding')}: \`--format html\` shows all._\n`;
}

function answerRows({ answers }: FindingsReport): string[] {
  if (!answers) return [];
  const signs = { yes: '✅', no: '❌', 'not known': '❔' };
  const rows = questions.flatMap((question) => {
    const { answer, because = [] } = answers[question];
    if (answer === 'not asked') return [];
    const why = because.map((one) => ` ${inline(one.because)} → ${inline(one.remedy)}`).join('<br>');
    return `| ${questionTexts[question]} | ${signs[answer]} ${answerText(answers[question])}${why} |`;
  });
  return rows.length === 0 ? [] : ['| question | answer |', '| --- | --- |', ...rows, ''];
}

function coverageLines(report: FindingsReport): string[] {
  const { coverage } = report;
  if (!coverage) return [];
  const { unread } = coverage;
  const all = unread.length === 0 ? completely(coverage) : `; could not check ${count(unread.length, 'item')}:`;
  const gaps = gapsOf(report);
  return [
    `Checked ${checkedText(coverage)}${all}`,
    ...bullets(unread, ({ path, inside, because }) => `${code(placeText({ path, inside }))} ${inline(because)}`),
    ...(gaps.length > 0 ? ['', 'Not searched for, skipped, or known by a trial:', ''] : []),
    ...bullets(gaps, ({ message }) => inline(message)),
    '',
  ];
}

/** The first items of a list, and the number of the others. */
function bullets<T>(items: readonly T[], textOf: (item: T) => string): string[] {
  const more = items.length - MOST_PLACES;
  const shown = items.slice(0, MOST_PLACES).map((item) => `- ${textOf(item)}`);
  return more > 0 ? [...shown, `- and ${grouped(more)} more`] : shown;
}

/** One section per code, the gravest first; only errors are unfolded. */
function sections(findings: readonly Finding[]): { text: string; findings: number }[] {
  const groups = [...groupBy(findings, ({ level, code: of }) => `${level} ${of}`).values()];
  groups.sort((a, b) => compareLevels((a[0] as Finding).level, (b[0] as Finding).level) || b.length - a.length);
  return groups.map((group) => {
    const { level, code: of } = group[0] as Finding;
    const title = `${marks[level]} ${level} <code>${of}</code> (${group.length}): ${html(catalogue[of].meaning)}`;
    const open = level === 'error' ? ' open' : '';
    const text = `\n<details${open}><summary>${title}</summary>\n\n${statements(group)}\n</details>\n`;
    return { text, findings: group.length };
  });
}

function statements(group: readonly Finding[]): string {
  const same = [...groupBy(group, ({ message, remedy }) => `${message}\n${remedy}`).values()];
  return same.map((one) => statement(one)).join('');
}

function statement(findings: readonly Finding[]): string {
  const { variable, message, remedy } = findings[0] as Finding;
  const shown = findings.slice(0, MOST_PLACES);
  const more = findings.length - shown.length;
  const places = shown.flatMap(({ place, origin, encoding, fingerprint }) => {
    const source = origin ? `${code(`${origin.path}:${origin.line}:${origin.column}`)} in ` : '';
    const steps = encoding?.filter((name) => name !== 'plain') ?? [];
    const as = steps.length > 0 ? ` as ${inline(steps.join(' in '))}` : '';
    return place ? `  - ${source}${code(placeText(place))}${as} (${fingerprint.slice(0, 8)})\n` : [];
  });
  const name = variable !== undefined && !message.includes(variable) ? `**${inline(variable)}** ` : '';
  return `- ${name}${inline(message)}\n${places.join('')}${more > 0 ? `  - and ${count(more, 'more place')}\n` : ''}  - → ${inline(remedy)}\n`;
}

/** Text from outside in a line of Markdown: neither Markdown nor HTML nor a mention. Code in backticks stays code. */
function inline(text: string): string {
  return displayText(text)
    .split(/(`[^`]+`)/)
    .map((part, index) => (index % 2 === 1 ? code(part.slice(1, -1)) : markdownText(part)))
    .join('');
}

function html(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
}

function markdownText(text: string): string {
  return html(text)
    .replace(/[\\*[\]|~#!>`]|(?<!\w)_|_(?!\w)/g, '\\$&')
    .replace(/@/g, '@\u200b');
}

/** A code span with more backticks around it than are in it (CommonMark 0.31, 6.1); a table would end a cell at `|`. */
function code(text: string): string {
  const longest = Math.max(0, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = '`'.repeat(longest + 1);
  const space = longest > 0 ? ' ' : '';
  return `${fence}${space}${displayText(text).replaceAll('|', '\\|')}${space}${fence}`;
}
