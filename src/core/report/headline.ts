import type { Report } from './documents.js';
import { makeStyle } from './style.js';
import { changesLine } from './text-compared.js';
import { historySummary } from './text-history.js';
import { countLine, nothingFound } from './text-summary.js';

/** A report in one line, without colour. */
export function headline(report: Report): string {
  if (report.kind === 'history') return historySummary(report);
  const findings = report.kind === 'findings' ? report : undefined;
  if (findings?.changes) return changesLine(findings.changes, findings.findings);
  const plain = { style: makeStyle(false) };
  return countLine(report.summary, plain, nothingFound(findings ?? {}, plain));
}
