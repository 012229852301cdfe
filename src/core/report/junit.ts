import type { Answer } from '../conclude/answers.js';
import { questions } from '../findings/check.js';
import type { AcceptedFinding, Finding } from '../findings/finding.js';
import { placeText } from '../findings/place.js';
import { element, xmlText } from '../text/xml.js';
import type { FindingsReport, Report } from './documents.js';
import type { Made } from './made.js';
import { questionTexts } from './question-texts.js';
import { gapsOf } from './remarks.js';

/**
 * A report as JUnit XML, as pipelines show test results: a test case for each question and each finding. Errors and warnings fail, notes
 * and accepted findings are skipped tests with their text; what could not be checked is an error. The format has no standard; this is the subset that all
 * readers share (`testsuites`, `testsuite`, `testcase`, `failure`, `error`, `skipped`).
 */
export function printJunit(report: Report): string {
  const cases = casesOf(report);
  const number = (outcome: string) => cases.filter((one) => one.outcome === outcome).length;
  const totals = {
    name: suiteName(report),
    tests: cases.length,
    failures: number('failure'),
    errors: number('error'),
    skipped: number('skipped'),
    time: 0,
  };
  const { made } = report;
  const about = { ...totals, timestamp: made?.at.slice(0, 19) };
  const inner = [...(made ? [properties(made)] : []), ...cases.map(({ xml }) => xml)].map((xml) => `    ${xml}\n`);
  const suite = element('testsuite', about, `\n${inner.join('')}  `);
  return `<?xml version="1.0" encoding="UTF-8"?>\n${element('testsuites', totals, `\n  ${suite}\n`)}\n`;
}

interface TestCase {
  outcome: 'passed' | 'failure' | 'error' | 'skipped';
  xml: string;
}

function suiteName(report: Report): string {
  const stage = 'stage' in report ? report.stage : undefined;
  return ['adder', report.command, stage].filter(Boolean).join(' ');
}

function casesOf(report: Report): TestCase[] {
  const about =
    report.kind === 'findings' ? [...answerCases(report), ...unreadCases(report), ...unsoughtCases(report)] : [];
  const accepted = (report.accepted ?? []).map((one) => acceptedCase(one, report.command));
  const cases = [...about, ...report.findings.map((finding) => findingCase(finding, report.command)), ...accepted];
  // Some readers take a suite without tests for a broken one.
  return cases.length > 0 ? cases : [testCase({ classname: report.command, name: 'no problems' }, 'passed')];
}

function answerCases({ command, answers }: FindingsReport): TestCase[] {
  if (!answers) return [];
  return questions.flatMap((question) => {
    const answer: Answer = answers[question];
    const about = { classname: command, name: questionTexts[question] };
    const reasons = (answer.because ?? []).map(({ because, remedy }) => `${because}\n→ ${remedy}`).join('\n');
    if (answer.answer === 'not asked') return [];
    if (answer.answer === 'yes') return testCase(about, 'passed');
    return answer.answer === 'no'
      ? testCase(about, 'failure', { message: 'no', text: 'see the findings' })
      : testCase(about, 'error', { message: 'not known', text: reasons });
  });
}

function unreadCases({ command, coverage }: FindingsReport): TestCase[] {
  return (coverage?.unread ?? []).map(({ path, inside, because }) =>
    testCase({ classname: command, name: placeText({ path, inside }) }, 'error', {
      message: because,
      text: 'could not be checked',
    }),
  );
}

/** Values that were not searched for, and what was skipped. */
function unsoughtCases(report: FindingsReport): TestCase[] {
  return gapsOf(report).map(({ kind, message }) =>
    testCase({ classname: report.command, name: message }, 'skipped', { message: kind }),
  );
}

function properties({ adder, project, revision }: Made): string {
  const all = { adder, project, commit: revision?.id, changed: revision && String(revision.dirty) };
  const known = Object.entries(all).filter(([, value]) => value !== undefined);
  return element('properties', {}, known.map(([name, value]) => element('property', { name, value }, '')).join(''));
}

function findingCase(finding: Finding, command: string): TestCase {
  const { code, level, message, remedy, place, origin, variable, fingerprint } = finding;
  const where = place ? placeText(place) : '';
  const about = {
    classname: `${command}.${code.replace('/', '.')}`,
    name: [where, variable, message].filter(Boolean).join(': '),
    file: place?.path,
    line: place?.line,
  };
  const source = origin ? [`source ${origin.path}:${origin.line}:${origin.column}`] : [];
  const text = [`${level}: ${message}`, where, ...source, `→ ${remedy}`, `${code} ${fingerprint.slice(0, 8)}`]
    .filter(Boolean)
    .join('\n');
  return testCase(about, level === 'note' ? 'skipped' : 'failure', { message, type: code, text });
}

function acceptedCase({ code, place, message, because, until }: AcceptedFinding, command: string): TestCase {
  const about = {
    classname: `${command}.${code.replace('/', '.')}`,
    name: [place && placeText(place), message].filter(Boolean).join(': '),
  };
  return testCase(about, 'skipped', { message: `accepted until ${until}: ${because}` });
}

function testCase(
  about: { classname: string; name: string; file?: string | undefined; line?: number | undefined },
  outcome: TestCase['outcome'],
  { message, type, text }: { message?: string; type?: string; text?: string } = {},
): TestCase {
  const inner = outcome === 'passed' ? '' : element(outcome, { message, type }, xmlText(text ?? ''));
  return { outcome, xml: element('testcase', { ...about, time: 0 }, inner) };
}
