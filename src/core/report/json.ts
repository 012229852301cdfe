import { escapeJsonControls } from '../text/display.js';
import type { Report } from './report.js';

/** The report as one JSON object, in the published shape: excerpts are for readers with eyes only. */
export function printJson(report: Report): string {
  const findings = report.findings.map(({ excerpt: _, ...finding }) => finding);
  return jsonText({ ...report, findings });
}

/** JSON as Adder prints it: control characters are escaped in strings, as a terminal may be at the other end. */
export function jsonText(value: unknown): string {
  return `${escapeJsonControls(JSON.stringify(value, null, 2))}\n`;
}
