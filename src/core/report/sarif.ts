import type { Log, Region, ReportingDescriptor, Result } from 'sarif';
import { type Code, codes } from '../findings/codes.js';
import type { Finding, Place } from '../findings/finding.js';
import { placeText } from '../findings/place.js';
import type { Report } from './documents.js';
import { jsonText } from './json.js';

/** A report in the Static Analysis Results Interchange Format (OASIS SARIF 2.1.0), as code hosts and editors show it. */
export function printSarif(report: Report): string {
  const used = [...new Set(report.findings.map(({ code }) => code))].sort();
  const log: Log = {
    $schema: 'https://json.schemastore.org/sarif-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: { driver: { name: 'Adder', rules: used.map(rule) } },
        columnKind: 'utf16CodeUnits',
        results: report.findings.map((finding) => result(finding, used.indexOf(finding.code))),
      },
    ],
  };
  return jsonText(log);
}

function rule(code: Code): ReportingDescriptor {
  const { level, meaning, help } = codes[code];
  return {
    id: code,
    shortDescription: { text: meaning },
    fullDescription: { text: help },
    help: { text: help },
    defaultConfiguration: { level },
  };
}

function result(
  { code, level, message, remedy, place, fingerprint, variable, stage, bundle }: Finding,
  ruleIndex: number,
): Result {
  const region = place && regionOf(place);
  return {
    ruleId: code,
    ruleIndex,
    level,
    // SARIF has no path for a file inside a container, so the message names it.
    message: { text: `${message}${place && place.inside.length > 0 ? ` (${placeText(place)})` : ''}; ${remedy}` },
    ...(place && {
      locations: [
        {
          physicalLocation: {
            artifactLocation: { uri: place.path.split('/').map(encodeURIComponent).join('/') },
            ...(region && place.inside.length === 0 && { region }),
          },
        },
      ],
    }),
    partialFingerprints: { 'adder/v1': fingerprint },
    properties: { ...(variable && { variable }), ...(stage && { stage }), ...(bundle && { bundle }) },
  };
}

/** Columns are UTF-16 code units, as `columnKind` says; the end is not part of the region (SARIF 2.1.0, 3.30). */
function regionOf({ line, column, endLine, endColumn, offset, length }: Place): Region | undefined {
  if (line === undefined) return undefined;
  return {
    startLine: line,
    ...(column !== undefined && { startColumn: column }),
    ...(endLine !== undefined && endLine !== line && { endLine }),
    ...(endColumn !== undefined && { endColumn }),
    ...(offset !== undefined && length !== undefined && { byteOffset: offset, byteLength: length }),
  };
}
