import type { RawFinding } from '../findings/finding.js';
import type { Rules } from '../findings/judge.js';
import type { HandoffReport } from './documents.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

export type ReportedHost = HandoffReport['hosts'][number];

/** Comparison of the values on the hosts of a stage with those that they need. No value is in it. @param today as 2026-11-24 */
export function handoffReport(
  stage: string,
  hosts: readonly ReportedHost[],
  findings: readonly RawFinding[],
  rules: Rules,
  today: string,
): HandoffReport {
  return {
    report: REPORT_VERSION,
    kind: 'handoff',
    command: 'handoff',
    stage,
    hosts: [...hosts],
    ...wordedFindings(findings, rules, today, []),
  };
}
