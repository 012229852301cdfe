import { answerText } from '../../conclude/answers.js';
import type { Coverage } from '../../findings/check.js';
import { questions } from '../../findings/check.js';
import { count, displayText, escapeJsonControls } from '../../text/display.js';
import { base64Sha256 } from '../../text/hash.js';
import { xmlText } from '../../text/xml.js';
import { byVariable } from '../../trial/by-variable.js';
import { catalogue } from '../../words/catalogue.js';
import type { FindingsReport, Report } from '../documents.js';
import { headline } from '../headline.js';
import { madeText } from '../made.js';
import { questionTexts } from '../question-texts.js';
import { checkedText, completely } from '../text-summary.js';
import type { PageReport } from './page/model.js';
import { pageScript, pageStyle } from './page-assets.js';

/**
 * A report as one page that opens from disk. Its script and style are in it, and its content security policy admits nothing else: no
 * request, no other script. Everything from artifacts is in a block of JSON, and becomes text only.
 */
export function printHtml(report: Report): string {
  const stage = 'stage' in report && report.stage ? report.stage : '';
  const title = `adder ${report.command}${stage && ` ${stage}`}`;
  const policy = [
    "default-src 'none'",
    `script-src '${digestOf(pageScript)}'`,
    // Bars have widths of their own, which the script sets on properties.
    `style-src '${digestOf(pageStyle)}'`,
    "base-uri 'none'",
    "form-action 'none'",
  ].join('; ');
  const [[first = 'findings'] = []] = sectionsOf(report);
  const of = report.kind === 'findings' ? report : undefined;
  const coverage = of?.coverage ?? (report.kind === 'trial' ? report.coverage : undefined);
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${policy}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="referrer" content="no-referrer">
<title>${text(title)}</title>
<style>${pageStyle}</style>
</head>
<body>
<a class="skip" href="#${first}">Skip to the ${first === 'findings' ? first : 'time line'}</a>
<header>
<h1>${text(title)}</h1>
<p>${text(headline(report))}${coverage ? ` · ${text(coverageText(coverage))}` : ''}</p>
${report.made ? `<p class="made">${text(madeText(report.made))}</p>\n` : ''}${of ? answers(of) : ''}</header>
<nav aria-label="Sections">${sectionsOf(report)
    .map(([id, name]) => `<a href="#${id}">${name}</a>`)
    .join('')}</nav>
<main>
<noscript><p>This report needs JavaScript to list its findings. It makes no requests.</p></noscript>
${sectionsOf(report)
  .map(([id, name]) => section(id, name))
  .join('\n')}
</main>
<script type="application/json" id="report">${jsonBlock(pageReport(report))}</script>
<script>${pageScript}</script>
</body>
</html>
`;
}

function sectionsOf(report: Report): [id: string, name: string][] {
  const { contents = undefined, changes = undefined } = report.kind === 'findings' ? report : {};
  const coverage = report.kind === 'findings' || report.kind === 'trial' ? report.coverage : undefined;
  if (report.kind === 'history') return [['timeline', 'Time line']];
  return [
    ...(report.kind === 'trial' ? ([['trial', 'Where values arrive']] as [string, string][]) : []),
    ['findings', changes ? 'New findings' : 'Findings'],
    ...(changes ? ([['gone', 'Gone']] as [string, string][]) : []),
    ...(changes ? ([['same', 'The same']] as [string, string][]) : []),
    ...(coverage ? ([['coverage', notChecked(coverage)]] as [string, string][]) : []),
    ...(contents ? ([['matrix', 'Contents']] as [string, string][]) : []),
    ...(contents ? ([['files', 'Files']] as [string, string][]) : []),
    ...(report.accepted ? ([['accepted', 'Accepted']] as [string, string][]) : []),
  ];
}

/** The name of the section, with how much it lists. */
function notChecked({ unread, notSearched = [] }: Coverage): string {
  const number = unread.length + notSearched.length;
  return number === 0 ? 'Not checked' : `Not checked (${number.toLocaleString('en')})`;
}

function section(id: string, name: string): string {
  const inner =
    id === 'findings'
      ? '<div id="overview"></div>\n<div id="filters" hidden></div>\n<div id="findings-list"></div>\n'
      : '';
  return `<section id="${id}" aria-labelledby="${id}-title">\n<h2 id="${id}-title" tabindex="-1">${name}</h2>\n${inner}</section>`;
}

function answers({ answers: all }: FindingsReport): string {
  if (!all) return '';
  const classes = { yes: 'yes', no: 'no', 'not known': 'unknown' };
  const signs = { yes: '✓', no: '✕', 'not known': '?' };
  const items = questions.flatMap((question) => {
    const { answer, because = [] } = all[question];
    if (answer === 'not asked') return [];
    const reasons = because.map((one) => `<p>${text(one.because)} → ${text(one.remedy)}</p>`).join('');
    const name = text(questionTexts[question]);
    return `<li class="${classes[answer]}"><span class="question">${name}</span><span class="answer"><span aria-hidden="true">${signs[answer]}</span> ${text(answerText(all[question]))}</span>${reasons}</li>\n`;
  });
  return items.length > 0 ? `<ul class="answers">\n${items.join('')}</ul>\n` : '';
}

function coverageText(coverage: NonNullable<FindingsReport['coverage']>): string {
  const { unread } = coverage;
  const all = unread.length === 0 ? completely(coverage) : `, except for ${count(unread.length, 'item')}`;
  return `checked ${checkedText(coverage)}${all}`;
}

function pageReport(report: Report): PageReport {
  const { command, findings, summary, accepted } = report;
  const {
    coverage,
    checked,
    answers: all,
    contents,
    stage,
    changes,
  } = report.kind === 'findings' || report.kind === 'trial' ? (report as Partial<FindingsReport>) : {};
  const used = new Set(
    [...findings, ...(accepted ?? []), ...(changes?.same ?? []), ...(changes?.gone ?? [])].map(({ code }) => code),
  );
  return {
    command,
    findings,
    summary,
    ...(stage !== undefined && { stage }),
    ...(coverage && { coverage }),
    ...(checked && { checked }),
    ...(all && { answers: all }),
    ...(contents && { contents }),
    ...(report.kind === 'trial' && { trial: byVariable(report.rows) }),
    ...(report.kind === 'history' && { history: report }),
    ...(accepted && { accepted }),
    ...(changes && { gone: changes.gone, same: changes.same }),
    codes: Object.fromEntries(
      [...used].map((code) => [code, { meaning: catalogue[code].meaning, help: catalogue[code].help }]),
    ),
  };
}

/** JSON that cannot end its script element, or start a comment in it (HTML, 4.12.1.3), and whose source reads as it is. */
function jsonBlock(value: unknown): string {
  return escapeJsonControls(JSON.stringify(value)).replace(/[<>&]/g, (one) => `\\u00${one.charCodeAt(0).toString(16)}`);
}

function digestOf(content: string): string {
  return `sha256-${base64Sha256(content)}`;
}

function text(value: string): string {
  return xmlText(displayText(value));
}
