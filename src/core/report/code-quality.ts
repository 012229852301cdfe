import type { Level } from '../findings/codes.js';
import { placeText } from '../findings/place.js';
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
      description: `${place && place.inside.length > 0 ? `${placeText(place)}: ` : ''}${message}; ${remedy}`,
      check_name: code,
      fingerprint,
      severity: severities[level],
      // Reviewers see sources, not built files.
      location: { path: (origin ?? place)?.path ?? 'adder.yaml', lines: { begin: (origin ?? place)?.line ?? 1 } },
    })),
  );
}
