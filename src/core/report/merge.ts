import type { Answer, Answers } from '../conclude/answers.js';
import { addFacts, type Facts, type SavedFacts } from '../conclude/facts.js';
import { conclude } from '../conclude/index.js';
import { distinct, joinCoverage, questions } from '../findings/check.js';
import { joinContents } from '../findings/contents.js';
import { summarize } from '../findings/judge.js';
import { groupBy } from '../text/group-by.js';
import { findingsReport } from './findings.js';
import type { FindingsReport } from './findings-report.js';
import type { Made } from './made.js';

type PartReport = FindingsReport & { facts: SavedFacts };

/**
 * Several reports as one: the facts of parts of one output are added, and concluded as if one machine had inspected all of it; then findings,
 * coverage and answers of all reports are put together. Findings that several reports have are listed once.
 * @param today as 2026-11-24, UTC: acceptances of joined parts are judged again
 */
export function mergeReports(reports: readonly FindingsReport[], today: string): FindingsReport {
  const parts = reports.filter((one): one is PartReport => one.facts !== undefined);
  const joined = [...groupBy(parts, ({ facts }) => facts.shards[0]?.listing ?? '').values()].map((all) =>
    joinParts(all, today),
  );
  const all = [...reports.filter(({ facts }) => !facts), ...joined];
  const [first] = all;
  const made = joinMade(reports.flatMap((one) => one.made ?? []));
  return { ...(all.length === 1 && first ? first : together(all)), ...(made && { made }) };
}

/** The newest one; without a project or a commit that the reports do not share. */
function joinMade(all: readonly Made[]): Made | undefined {
  const [newest] = [...all].sort((a, b) => (a.at < b.at ? 1 : -1));
  if (!newest) return undefined;
  const { at, adder, project, revision } = newest;
  const isShared = (key: 'project' | 'revision') => distinct(all.map((one) => one[key])).length === 1;
  return {
    ...{ at, adder },
    ...(project !== undefined && isShared('project') && { project }),
    ...(revision && isShared('revision') && { revision }),
  };
}

/** The report that one machine would have made from all parts. A part that was given twice counts once. */
function joinParts(reports: readonly PartReport[], today: string): FindingsReport {
  const byShard = new Map(reports.map((one) => [one.facts.shards[0]?.part ?? 0, one]));
  const [first, ...others] = [...byShard].sort(([a], [b]) => a - b).map(([, one]) => one) as [
    PartReport,
    ...PartReport[],
  ];
  const facts = others.reduce<Facts>((sum, { facts: one }) => addFacts(sum, one), first.facts);
  const reaches = new Map(facts.variables.map(({ name, reach }) => [name, reach]));
  const rules = { ...first.facts.rules, reachOf: (name: string) => reaches.get(name) };
  const of = { command: first.command, stage: facts.stage };
  return findingsReport(of, [conclude(facts)], rules, today);
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
