import type { CodeFlow, Invocation, Location, Log, Region, ReportingDescriptor, Result, Suppression } from 'sarif';
import { type Code, codes } from '../findings/codes.js';
import type { AcceptedFinding, Finding, Origin, Place } from '../findings/finding.js';
import { isUrl, placeText } from '../findings/place.js';
import { catalogue } from '../words/catalogue.js';
import type { Report } from './documents.js';
import { jsonText } from './json.js';
import { remarksOf } from './remarks.js';

/** A report in the Static Analysis Results Interchange Format (OASIS SARIF 2.1.0), as code hosts and editors show it. */
export function printSarif(report: Report): string {
  const { made } = report;
  const changes = report.kind === 'findings' ? report.changes : undefined;
  const states = new Map<Finding, Result['baselineState']>([
    ...report.findings.map((one) => [one, 'new'] as const),
    ...(changes?.same ?? []).map((one) => [one, 'unchanged'] as const),
    ...(changes?.gone ?? []).map((one) => [one, 'absent'] as const),
  ]);
  const all = [...report.findings, ...(changes?.same ?? []), ...(changes?.gone ?? []), ...(report.accepted ?? [])];
  const used = [...new Set(all.map(({ code }) => code))].sort();
  const log: Log = {
    $schema: 'https://json.schemastore.org/sarif-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: { driver: { name: 'Adder', ...(made && { version: made.adder }), rules: used.map(rule) } },
        invocations: [invocation(report)],
        columnKind: 'utf16CodeUnits',
        results: all.map((finding) => ({
          ...result(finding, used.indexOf(finding.code)),
          ...(changes && states.has(finding) && { baselineState: states.get(finding) }),
        })),
        properties: {
          command: report.command,
          ...('stage' in report && report.stage !== undefined && { stage: report.stage }),
          ...(made?.project !== undefined && { project: made.project }),
          ...(made?.revision && { revision: made.revision }),
          ...(report.kind === 'findings' && report.answers && { answers: report.answers }),
        },
      },
    ],
  };
  return jsonText(log);
}

/** The run itself: when it was, and what was not answered, read or searched for, as notifications (3.20, 3.58). */
function invocation(report: Report): Invocation {
  return {
    executionSuccessful: true,
    ...(report.made && { endTimeUtc: report.made.at }),
    toolExecutionNotifications: remarksOf(report).map(({ level, kind, message, path }) => ({
      level,
      descriptor: { id: kind },
      message: { text: message },
      ...(path !== undefined && { locations: [{ physicalLocation: { artifactLocation: { uri: uriOf(path) } } }] }),
    })),
  };
}

function rule(code: Code): ReportingDescriptor {
  const { level } = codes[code];
  const { meaning, help } = catalogue[code];
  return {
    id: code,
    shortDescription: { text: meaning },
    fullDescription: { text: help },
    help: { text: help },
    defaultConfiguration: { level },
  };
}

function result(finding: Finding | AcceptedFinding, ruleIndex: number): Result {
  const { code, level, message, remedy, place, origin, chain, fingerprint, variable, stage, bundle } = finding;
  return {
    ruleId: code,
    ruleIndex,
    level,
    message: { text: `${message}${place && place.inside.length > 0 ? ` (${placeText(place)})` : ''}; ${remedy}` },
    ...(place && { locations: [locationOf(place)] }),
    ...(origin && { relatedLocations: [{ id: 0, message: { text: 'source' }, ...sourceLocation(origin) }] }),
    ...(chain && { codeFlows: [importFlow(chain, place)] }),
    partialFingerprints: { 'adder/v1': fingerprint },
    ...('because' in finding && { suppressions: [suppression(finding)] }),
    properties: { ...(variable && { variable }), ...(stage && { stage }), ...(bundle && { bundle }) },
  };
}

/** A file inside containers is a logical location in the outermost one (3.33); regions are those of physical files. */
function locationOf(place: Place): Location {
  const { path, inside } = place;
  const region = inside.length === 0 ? regionOf(place) : undefined;
  return {
    physicalLocation: { artifactLocation: { uri: uriOf(path) }, ...(region && { region }) },
    ...(inside.length > 0 && {
      logicalLocations: [
        { name: inside.at(-1) ?? '', fullyQualifiedName: [path, ...inside].join('!'), kind: 'member' },
      ],
    }),
  };
}

function sourceLocation({ path, line, column }: Origin): Location {
  return {
    physicalLocation: { artifactLocation: { uri: uriOf(path) }, region: { startLine: line, startColumn: column } },
  };
}

/** How the code with the finding gets into the bundle: each file imports the next one. */
function importFlow(chain: readonly string[], place: Place | undefined): CodeFlow {
  const locations = chain.map((path, index) => {
    const isLast = index === chain.length - 1;
    const location =
      isLast && place ? locationOf(place) : { physicalLocation: { artifactLocation: { uri: uriOf(path) } } };
    const text = index === 0 ? 'entry' : isLast ? 'imported, and has the finding' : 'imported';
    return { location: { ...location, message: { text } } };
  });
  return { message: { text: 'imports from the entry' }, threadFlows: [{ locations }] };
}

function suppression({ because, until }: AcceptedFinding): Suppression {
  return { kind: 'external', status: 'accepted', justification: `${because} (until ${until})` };
}

function uriOf(path: string): string {
  if (isUrl(path) && URL.canParse(path)) return new URL(path).href;
  return path.split('/').map(encodeURIComponent).join('/');
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
