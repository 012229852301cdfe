import type { Report } from './report.js';

/** The report as one JSON object, in the published shape: excerpts are for readers with eyes only. */
export function printJson(report: Report): string {
  const findings = report.findings.map(({ excerpt: _, ...finding }) => finding);
  return `${JSON.stringify({ ...report, findings }, null, 2)}\n`;
}
