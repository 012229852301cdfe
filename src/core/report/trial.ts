import type { Coverage } from '../findings/check.js';
import type { RawFinding } from '../findings/finding.js';
import type { Rules } from '../findings/judge.js';
import type { TrialRow } from '../trial/conclude.js';
import type { TrialReport } from './documents.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

/** Result of a trial build. No value is in it: markers are not shown, as they are other ones each time. */
export function trialReport(
  of: { stage: string; bundle: string },
  {
    rows,
    asked,
    findings,
    coverage,
  }: { rows: readonly TrialRow[]; asked: TrialReport['asked']; findings: readonly RawFinding[]; coverage: Coverage },
  rules: Rules,
  today: string,
): TrialReport {
  return {
    report: REPORT_VERSION,
    kind: 'trial',
    command: 'trial',
    ...of,
    coverage: { files: coverage.files, members: coverage.members, bytes: coverage.bytes, unread: [...coverage.unread] },
    rows: [...rows],
    asked: [...asked],
    ...wordedFindings(findings, rules, today, []),
  };
}
