import type { Level } from '../findings/codes.js';
import { isUrl, placeText } from '../findings/place.js';
import type { Report } from './documents.js';
import { jsonText } from './json.js';

const severities: Readonly<Record<Level, string>> = { error: 'critical', warning: 'major', note: 'info' };

/**
 * A report as a list of code quality issues, which merge requests show beside the lines: description, check_name, fingerprint,
 * severity, and location with path and first line. Findings without a place are at the report's command.
 */
export function printCodeQuality(report: Report): string {
  return jsonText(
    report.findings.map(({ code, level, message, remedy, place, origin, fingerprint }) => ({
      description: `${place && (place.inside.length > 0 || isUrl(place.path)) ? `${placeText(place)}: ` : ''}${message}; ${remedy}`,
      check_name: code,
      fingerprint,
      severity: severities[level],
      // Reviewers see sources, not built files.
      location: locationOf(origin ?? place),
    })),
  );
}

/** A file of the repository; a served file is named in the description. */
function locationOf(where: { path: string; line?: number } | undefined): { path: string; lines: { begin: number } } {
  if (!where || isUrl(where.path)) return { path: 'adder.yaml', lines: { begin: 1 } };
  return { path: where.path, lines: { begin: where.line ?? 1 } };
}
