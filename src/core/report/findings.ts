import { answersOf } from '../conclude/answers.js';
import { type CheckResult, joinCoverage } from '../findings/check.js';
import { joinContents } from '../findings/contents.js';
import type { FindingsFailure } from '../findings/failure.js';
import { withAcceptedGaps } from '../findings/gaps.js';
import { judge, noRules, type Rules } from '../findings/judge.js';
import type { FindingsReport } from './findings-report.js';
import { REPORT_VERSION } from './version.js';
import { withWords } from './worded.js';

/** One report of any number of checks. @param today as 2026-11-24, UTC */
export function findingsReport(
  of: { command: string; stage?: string },
  results: readonly CheckResult[],
  rules: Rules,
  today: string,
): FindingsReport {
  const joined = joinCoverage(results.flatMap((one) => one.coverage ?? []));
  const { coverage, used } = joined ? withAcceptedGaps(joined, rules.accept, today) : { used: [] };
  const raw = results.flatMap(({ findings }) => findings);
  const groups = results.flatMap((one) => one.groups);
  const judged = judge(raw, rules, today, groups, used);
  const contents = joinContents(results.flatMap((one) => one.contents ?? []));
  const since = results.flatMap((one) => one.since ?? []);
  const answers = answersOf(results, judged, coverage);
  return {
    report: REPORT_VERSION,
    kind: 'findings',
    ...of,
    ...(coverage && { coverage }),
    ...(answers && { answers }),
    ...(contents && { contents }),
    ...(since.length > 0 && { since }),
    ...withWords(judged),
  };
}

/** A contract or layer that could not be understood, as a report. */
export function failureReport(command: string, { findings }: FindingsFailure): FindingsReport {
  return findingsReport({ command }, [{ findings, groups: [] }], noRules, '');
}
