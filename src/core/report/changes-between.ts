import { questions } from '../findings/check.js';
import { summarize } from '../findings/judge.js';
import type { AnswerChange, FindingsReport } from './findings-report.js';

/**
 * A report with the findings that an earlier one does not have, and beside them what is gone and what is the same. Findings are one
 * problem if their fingerprints are the same. Accepted findings count as there, so that an end of an acceptance is no new finding.
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
