import type { Rules } from '../findings/judge.js';
import type { KeptTrial } from '../trial/kept.js';
import type { TrialReport } from './documents.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

/** Result of a trial build. No value is in it: markers are not shown, as they are other ones each time. */
export function trialReport(trial: KeptTrial & { isReused: boolean }, rules: Rules, today: string): TrialReport {
  const { stage, bundle, madeAt: builtAt, isReused, rows, asked, findings, coverage } = trial;
  return {
    report: REPORT_VERSION,
    kind: 'trial',
    command: 'trial',
    ...{ stage, bundle, builtAt, isReused },
    coverage: { files: coverage.files, members: coverage.members, bytes: coverage.bytes, unread: [...coverage.unread] },
    rows: [...rows],
    asked: [...asked],
    ...wordedFindings(findings, rules, today, []),
  };
}
