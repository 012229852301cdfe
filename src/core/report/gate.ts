import { answersOf } from '../conclude/answers.js';
import type { CheckResult } from '../findings/check.js';
import type { Rules } from '../findings/judge.js';
import type { KeptTrial } from '../trial/kept.js';
import { trialStatement } from '../trial/statement.js';
import { findingsReport } from './findings.js';
import type { CheckedPart, FindingsReport } from './findings-report.js';
import { together } from './merge.js';

/** One part of a gate: checks that are judged together, as their own command judges them; or why there are none. */
export interface GatePart {
  part: CheckedPart['part'];
  checks: readonly CheckResult[];
  because?: string;
}

/** A bundle whose questions are answered. */
export interface GateBundle {
  name: string;
  /** Tells whether a path, as reports show it, belongs to its output. */
  hasOutput(path: string): boolean;
}

/** The report of `adder gate`: all parts together, with what was checked, and the answers for each bundle. */
export function gateReport(
  stage: string,
  parts: readonly GatePart[],
  bundles: readonly GateBundle[],
  rules: Rules,
  today: string,
  trials: readonly KeptTrial[] = [],
): FindingsReport {
  const of = { command: 'gate', stage };
  const checked = parts.filter(({ checks }) => checks.length > 0);
  const joined = together(checked.map(({ checks }) => findingsReport(of, checks, rules, today)));
  const results = checked.flatMap(({ checks }) => checks);
  const answered = bundles.length > 1 && joined.answers ? bundles.map((one) => answersFor(one, results, joined)) : [];
  return {
    ...joined,
    ...of,
    checked: parts.map(({ part, checks, because }) => ({
      part,
      state: checks.length > 0 ? ('checked' as const) : ('skipped' as const),
      ...(because !== undefined && { because }),
    })),
    ...(answered.length > 0 && { bundles: answered }),
    ...(trials.length > 0 && {
      trials: trials.map((one) => trialStatement(one, joined.coverage?.notSearched ?? [])),
    }),
  };
}

function answersFor({ name, hasOutput }: GateBundle, results: readonly CheckResult[], joined: FindingsReport) {
  const { findings, accepted = [], coverage } = joined;
  const own = {
    findings: findings.filter(({ bundle }) => bundle === name),
    accepted: accepted.filter(({ bundle }) => bundle === name),
  };
  const ofBundle = results.flatMap((one) =>
    one.verdict
      ? {
          ...one,
          verdict: { ...one.verdict, doubts: one.verdict.doubts.filter(({ bundle = name }) => bundle === name) },
        }
      : [],
  );
  const unread = coverage && { ...coverage, unread: coverage.unread.filter(({ path }) => hasOutput(path)) };
  return { bundle: name, answers: answersOf(ofBundle, own, unread) as NonNullable<FindingsReport['answers']> };
}
