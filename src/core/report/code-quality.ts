import type { Level } from '../findings/codes.js';
import { isUrl, placeText } from '../findings/place.js';
import { sha256 } from '../text/hash.js';
import type { Report } from './documents.js';
import { jsonText } from './json.js';
import { remarksOf } from './remarks.js';

const severities: Readonly<Record<Level, string>> = { error: 'critical', warning: 'major', note: 'info' };

/**
 * A report as a list of code quality issues, which merge requests show beside the lines: description, check_name, fingerprint,
 * severity, and location with path and first line. Findings without a place, and what the report says besides findings, are at the contract.
 */
export function printCodeQuality(report: Report): string {
  return jsonText([
    ...report.findings.map(({ code, level, message, remedy, place, origin, fingerprint }) => ({
      description: `${place && (place.inside.length > 0 || isUrl(place.path)) ? `${placeText(place)}: ` : ''}${message}; ${remedy}`,
      check_name: code,
      fingerprint,
      severity: severities[level],
      // Reviewers see sources, not built files.
      location: locationOf(origin ?? place),
    })),
    ...remarksOf(report).map(({ level, kind, message, path }) => ({
      description: message,
      check_name: kind,
      fingerprint: sha256(`${kind}\n${message}`).slice(0, 32),
      severity: severities[level],
      location: locationOf(path === undefined ? undefined : { path }),
    })),
  ]);
}

/** A file of the repository; a served file is named in the description. */
function locationOf(where: { path: string; line?: number } | undefined): { path: string; lines: { begin: number } } {
  if (!where || isUrl(where.path)) return { path: 'adder.yaml', lines: { begin: 1 } };
  return { path: where.path, lines: { begin: where.line ?? 1 } };
}
