import type { FindingsFailure } from '../failure.js';
import { settle, summarize } from '../findings/finding.js';
import { type FindingsReport, REPORT_VERSION } from './report.js';

/** What could not be understood, as a report. */
export function failureReport(command: string, failure: FindingsFailure): FindingsReport {
  const findings = settle(failure.findings);
  return { report: REPORT_VERSION, command, findings, summary: summarize(findings) };
}
