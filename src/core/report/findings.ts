import type { CheckResult, Coverage } from '../findings/check.js';
import type { FindingsFailure } from '../findings/failure.js';
import { judge, noRules, type Rules } from '../findings/judge.js';
import type { FindingsReport } from './documents.js';
import { REPORT_VERSION } from './version.js';

/** One report of any number of checks. @param today as 2026-11-24, UTC */
export function findingsReport(
  of: { command: string; stage?: string },
  results: readonly CheckResult[],
  rules: Rules,
  today: string,
): FindingsReport {
  const coverage = joinCoverage(results);
  const raw = results.flatMap(({ findings }) => findings);
  const groups = results.flatMap((one) => one.groups);
  return {
    report: REPORT_VERSION,
    kind: 'findings',
    ...of,
    ...(coverage && { coverage }),
    ...judge(raw, rules, today, groups),
  };
}

/** A contract or layer that could not be understood, as a report. */
export function failureReport(command: string, { findings }: FindingsFailure): FindingsReport {
  return findingsReport({ command }, [{ findings, groups: [] }], noRules, '');
}

function joinCoverage(results: readonly CheckResult[]): Coverage | undefined {
  const all = results.flatMap(({ coverage }) => coverage ?? []);
  if (all.length === 0) return undefined;
  const sum = (field: 'files' | 'members' | 'bytes') => all.reduce((total, one) => total + one[field], 0);
  const passedOver = all.flatMap((one) => one.passedOver ?? []);
  const notSearched = all.flatMap((one) => one.notSearched ?? []);
  return {
    files: sum('files'),
    members: sum('members'),
    bytes: sum('bytes'),
    unread: all.flatMap(({ unread }) => unread),
    ...(passedOver.length > 0 && { passedOver }),
    ...(notSearched.length > 0 && { notSearched }),
  };
}
