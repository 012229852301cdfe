import { distinct, joinCoverage, questions } from '../findings/check.js';
import { joinContents } from '../findings/contents.js';
import type { AcceptedFinding, Finding, RawFinding } from '../findings/finding.js';
import { summarize } from '../findings/judge.js';
import type { Part } from '../findings/part.js';
import { untraceable } from '../inspect/expected.js';
import { settingsOnce } from '../inspect/settings.js';
import type { Answer, Answers } from './answers.js';
import { findingsReport } from './findings.js';
import type { FindingsReport } from './findings-report.js';
import { groupBy } from './layout.js';

/** A report of one part of an output. */
type PartReport = FindingsReport & { part: Part };

/**
 * Several reports as one: parts of one output are joined, as if one machine had inspected all of it; then findings, coverage and answers
 * of all reports are put together. Findings that several reports have are listed once.
 * @param today as 2026-11-24, UTC: acceptances of joined parts are judged again
 */
export function mergeReports(reports: readonly FindingsReport[], today: string): FindingsReport {
  const parts = reports.filter(isPart);
  const joined = [...groupBy(parts, ({ part }) => part.listing).values()].map((all) => joinParts(all, today));
  const all = [...reports.filter((one) => !isPart(one)), ...joined];
  const [first] = all;
  return all.length === 1 && first ? first : together(all);
}

function isPart(report: FindingsReport): report is PartReport {
  return report.part !== undefined;
}

/** Findings, coverage and answers of several reports as one. */
export function together(all: readonly FindingsReport[]): FindingsReport {
  const findings = distinct(all.flatMap((one) => one.findings));
  const accepted = distinct(all.flatMap((one) => one.accepted ?? []));
  const coverage = joinCoverage(all.flatMap((one) => one.coverage ?? []));
  const contents = joinContents(all.flatMap((one) => one.contents ?? []));
  const answers = joinAnswers(all.flatMap((one) => one.answers ?? []));
  const since = distinct(all.flatMap((one) => one.since ?? []));
  const commands = [...new Set(all.map(({ command }) => command))];
  const stages = [...new Set(all.flatMap(({ stage }) => stage ?? []))];
  return {
    report: 1,
    kind: 'findings',
    command: commands.length === 1 ? (commands[0] as string) : 'show',
    ...(stages.length > 0 && { stage: stages.join(', ') }),
    ...(coverage && { coverage }),
    ...(answers && { answers }),
    ...(contents && { contents }),
    ...(since.length > 0 && { since }),
    findings,
    summary: { ...summarize(findings), accepted: accepted.length },
    ...(accepted.length > 0 && { accepted }),
  };
}

/** One `no` is enough for no, and one unknown answer for an unknown one. */
function joinAnswers(all: readonly Answers[]): Answers | undefined {
  if (all.length === 0) return undefined;
  const joined = questions.map((question): [string, Answer] => {
    const given = all.map((one) => one[question]);
    const is = (answer: Answer['answer']) => given.some((one) => one.answer === answer);
    if (is('no')) return [question, { answer: 'no' }];
    const because = distinct(given.flatMap((one) => one.because ?? []));
    if (is('not known')) return [question, { answer: 'not known', because }];
    const accepted = given.reduce((sum, one) => sum + (one.accepted ?? 0), 0);
    if (!is('yes')) return [question, { answer: 'not asked' }];
    return [question, { answer: 'yes', ...(accepted > 0 && { accepted }) }];
  });
  return Object.fromEntries(joined) as Answers;
}

/** The report that one machine would have made from all parts. */
function joinParts(reports: readonly PartReport[], today: string): FindingsReport {
  const all = [...new Map(reports.map((one) => [one.part.part, one])).values()].sort(
    (a, b) => a.part.part - b.part.part,
  );
  const { command, stage, part } = all[0] as PartReport;
  const coverage = joinCoverage(all.flatMap((one) => one.coverage ?? []));
  const contents = joinContents(all.flatMap((one) => one.contents ?? []));
  const since = all.flatMap((one) => one.since ?? []);
  const missing = missingParts(all, command);
  const asked = all.flatMap((one) => one.part.asked);
  const doubts = [...distinct(all.flatMap((one) => one.part.doubts)), ...tracelessDoubts(all), ...missing];
  const result = {
    findings: settledFindings(all),
    groups:
      missing.length > 0 ? [] : part.groups.filter((one) => all.every((other) => other.part.groups.includes(one))),
    verdict: { asked: missing.length > 0 ? questions : asked, doubts },
    ...(coverage && { coverage }),
    ...(contents && { contents }),
    since,
  };
  const reaches = new Map(contents?.variables.map(({ name, reach }) => [name, reach]));
  const { contract: path, levels, accept } = part;
  const rules = { path, levels, accept, reachOf: (name: string) => reaches.get(name) };
  return findingsReport({ command, ...(stage !== undefined && { stage }) }, [result], rules, today);
}

function missingParts(all: readonly PartReport[], command: string) {
  const [{ part }] = all as [PartReport];
  const there = new Set(all.map((one) => one.part.part));
  const missing = Array.from({ length: part.of }, (_, index) => index + 1).filter((one) => !there.has(one));
  if (missing.length === 0) return [];
  const because = `${missing.length === 1 ? 'part' : 'parts'} ${missing.join(', ')} of ${part.of} ${missing.length === 1 ? 'is' : 'are'} missing`;
  const remedy = `run \`adder ${command} --shard ${missing[0]}/${part.of} --format json\` and add its report`;
  return questions.map((question) => ({ question, because, remedy }));
}

/** Of findings that depend on other parts, those that hold. */
function settledFindings(all: readonly PartReport[]): RawFinding[] {
  const explained = new Set(all.flatMap(({ part }) => part.explained.map(({ path, variable }) => key(path, variable))));
  const own = all
    .flatMap(({ findings, accepted = [] }) => [...findings, ...accepted])
    .filter(({ code }) => !code.startsWith('contract/'))
    .map(unjudged)
    .sort((a, b) => compareText(a.place?.path, b.place?.path));
  const isPresent = presenceIn(all);
  const found = own.filter(
    ({ code, place, variable = '' }) => code !== 'stage/foreign-value' || !explained.has(key(place?.path, variable)),
  );
  const reported = new Set(own.map(({ bundle, variable }) => key(bundle, variable)));
  for (const { finding, unlessReported } of all.flatMap(({ part }) => part.unlessPresent)) {
    const about = key(finding.bundle, finding.variable);
    if (isPresent(about) || (unlessReported && reported.has(about))) continue;
    found.push(finding);
    if (finding.code === 'stale/past-value') reported.add(about);
  }
  return settingsOnce([...found, ...all.flatMap(({ part }) => part.whole)]);
}

function presenceIn(all: readonly PartReport[]): (about: string) => boolean {
  const present = new Set(
    all.flatMap(({ contents }) => (contents?.values ?? []).map(({ bundle, variable }) => key(bundle, variable))),
  );
  return (about) => present.has(about);
}

function tracelessDoubts(all: readonly PartReport[]) {
  const isPresent = presenceIn(all);
  const left = all
    .flatMap(({ part }) => part.traceless)
    .filter(({ bundle, variable }) => !isPresent(key(bundle, variable)));
  return [...groupBy(left, ({ bundle, stage }) => key(bundle, stage)).values()].flatMap((values) => {
    const [{ bundle, stage }] = values as [(typeof values)[number]];
    return untraceable(
      bundle,
      stage,
      values.map(({ variable }) => variable),
    );
  });
}

/** Without what is settled when all findings are judged together. */
function unjudged({ fingerprint: _, ...finding }: Finding | AcceptedFinding): RawFinding {
  const { because: __, until: ___, ...raw } = finding as RawFinding & { because?: string; until?: string };
  return raw;
}

function key(...parts: readonly (string | undefined)[]): string {
  return JSON.stringify(parts.map((one) => one ?? ''));
}

function compareText(a = '', b = ''): number {
  return a < b ? -1 : a > b ? 1 : 0;
}
