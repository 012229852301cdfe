import { questions } from '../findings/check.js';
import { summarize } from '../findings/judge.js';
import type { AnswerChange, FindingsReport } from './findings-report.js';

/**
 * Compares two reports by fingerprint. `findings` of the result are the new ones; `changes` lists the findings that are gone and the
 * same. Accepted findings count as present, so an expired acceptance is not a new finding.
 */
export function changesBetween(before: FindingsReport, now: FindingsReport): FindingsReport {
  const [old, present] = [before, now].map(
    ({ findings, accepted = [] }) => new Set([...findings, ...accepted].map(({ fingerprint }) => fingerprint)),
  ) as [Set<string>, Set<string>];
  const findings = now.findings.filter(({ fingerprint }) => !old.has(fingerprint));
  const { report, kind, command, stage, made, coverage, accepted } = now;
  return {
    ...{ report, kind, command },
    ...(stage !== undefined && { stage }),
    ...(made && { made }),
    ...(coverage && { coverage }),
    ...(accepted && { accepted }),
    findings,
    summary: { ...summarize(findings), accepted: accepted?.length ?? 0 },
    changes: {
      gone: before.findings.filter(({ fingerprint }) => !present.has(fingerprint)),
      same: now.findings.filter(({ fingerprint }) => old.has(fingerprint)),
      answers: answersBetween(before, now),
      ...(before.made && { since: before.made.at }),
    },
  };
}

function answersBetween({ answers: before }: FindingsReport, { answers: now }: FindingsReport): AnswerChange[] {
  if (!before || !now) return [];
  return questions.flatMap((question) => {
    const [was, is] = [before[question].answer, now[question].answer];
    return was === is ? [] : [{ question, was, is }];
  });
}
