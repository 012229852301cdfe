import { escapeJsonControls } from '../text/display.js';
import type { Report } from './documents.js';

/** The report as one JSON object, in the published shape. Any other format can be printed from it again. */
export function printJson(report: Report): string {
  return jsonText(report);
}

/** Formats JSON with control characters escaped in strings, because the output may go to a terminal. */
export function jsonText(value: unknown): string {
  return `${escapeJsonControls(JSON.stringify(value, null, 2))}\n`;
}
