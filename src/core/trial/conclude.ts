import type { Bundle, Contract, Stage, Variable } from '../contract/contract.js';
import { belongsTo, prefixOf, variablesByName } from '../contract/names.js';
import { finding, type Place, type RawFinding } from '../findings/finding.js';
import type { Audience } from '../inspect/artifact.js';
import type { Resolution } from '../resolve/resolve.js';
import { nearest } from '../text/nearest.js';
import { isForeignName } from '../toolchains/known-names.js';
import type { Arrival, Evidence } from './evidence.js';
import type { Marker } from './marker.js';
import type { CodePlace } from './observed.js';

/** A trial with what it is held against. */
export interface TrialOf {
  contract: Contract;
  stage: Stage;
  bundle: Bundle;
  resolution: Resolution;
  evidence: Evidence;
  /** Names that the project's code reads in a build. */
  readBy: ReadonlyMap<string, ReadPlaces>;
  /** Names that `adder with` gives the build. */
  given: ReadonlySet<string>;
}

/** The places where code reads one name. */
export interface ReadPlaces {
  /** At least one place. Places that are likely to ship come first. */
  all: readonly CodePlace[];
  /** Returns a place that ships, if any. The first call resolves the imports of all code. */
  shipped(): CodePlace | undefined;
}

/** One name of a trial: where it is set, what reads it, where it arrives. */
export interface TrialRow {
  name: string;
  variable?: string;
  reach?: Variable['reach'];
  setIn: string[];
  readBy: string[];
  arrivesIn: {
    path: string;
    from: string;
    encoding: string[];
    audience: Audience | 'elsewhere';
    /** The line that brought it, by a source map. */
    source?: string;
  }[];
  /** True if no marker could be made, so that nothing is known of its value. */
  isUnmarked: boolean;
}

type Named = ReadonlyMap<string, Variable>;

/** Makes the table of a trial, and the findings that follow from it. */
export function concludeTrial(trial: TrialOf): { rows: TrialRow[]; findings: RawFinding[] } {
  const named = variablesByName(trial.contract);
  const { markers, unmarked, compared = [] } = trial.evidence;
  const names = new Set([...markers.map(({ name }) => name), ...unmarked, ...compared]);
  const rows = [...names].sort().map((name) => rowOf(trial, name, named.get(name)));
  const findings = rows.flatMap((row) => findingsOf(trial, row, named.get(row.name)));
  return { rows, findings: [...findings, ...unusedIn(trial, rows), ...nowhere(trial, named)] };
}

function rowOf({ evidence, readBy }: TrialOf, name: string, variable: Variable | undefined): TrialRow {
  const asked = evidence.asked.find((one) => one.name === name);
  const arrivals = evidence.arrivals.filter(({ marker }) => marker.name === name);
  const came = arrivals.flatMap(({ origin }) => (origin ? [codePlaceText(origin)] : []));
  const inCode = readBy.get(name)?.all ?? [];
  const place = inCode.find((one) => came.includes(codePlaceText(one))) ?? inCode[0];
  const all = [...(place ? [place] : []), ...(asked?.at ?? [])];
  const places = all.filter((one) => one.line > 0 || !all.some(({ path, line }) => path === one.path && line > 0));
  return {
    name,
    ...(variable && { variable: variable.name, reach: variable.reach }),
    setIn: setIn(evidence, name),
    readBy: [...new Set(places.map(codePlaceText))],
    arrivesIn: arrivals.map(({ marker, path, inside, encoding, audience, origin }) => ({
      path: [path, ...inside].join(' → '),
      from: marker.text === '' ? 'another value' : placeOf(marker),
      encoding: [...encoding],
      audience: audience ?? 'elsewhere',
      ...(origin && { source: `${origin.path}:${origin.line}` }),
    })),
    isUnmarked: evidence.unmarked.includes(name),
  };
}

/** The places that set a name: first the one whose value arrived, and the environment last. */
function setIn({ markers, unmarkedAt, arrivals }: Evidence, name: string): string[] {
  const own = [...markers, ...unmarkedAt].filter((one) => one.name === name);
  const came = arrivals.flatMap(({ marker }) => (marker.name === name && marker.text !== '' ? [marker] : []));
  const isInFile = ({ setAt }: Pick<Marker, 'setAt'>) => setAt.path !== undefined;
  return [...new Set([...came, ...own.filter(isInFile), ...own].map(placeOf))];
}

/** `src/main.ts:3`. */
export function codePlaceText({ path, line }: CodePlace): string {
  return line === 0 ? path : `${path}:${line}`;
}

function codePlace({ path, line }: CodePlace): Place {
  return { path, inside: [], ...(line > 0 && { line, column: 1 }) };
}

/** `.env.production:3`, or `the environment`. */
export function placeOf({ setAt: { path, line } }: Pick<Marker, 'setAt'>): string {
  return path === undefined ? 'the environment' : `${path}:${line ?? 1}`;
}

function findingsOf(trial: TrialOf, row: TrialRow, variable: Variable | undefined): RawFinding[] {
  const { bundle, evidence, stage } = trial;
  const shipped = evidence.arrivals.filter(
    ({ marker, audience }) => marker.name === row.name && audience === 'browser',
  );
  const about = { stage: stage.name, bundle: bundle.name, ...(variable && { variable: variable.name }) };
  if (!variable) {
    const set = shipped.find(({ marker }) => marker.setAt.path !== undefined);
    return set
      ? [finding('trial/undeclared', 'arrives', { name: row.name, path: set.path }, { ...about, place: at(set) })]
      : [];
  }
  if (variable.reach !== 'public') return letOut(trial, variable, shipped.filter(isMarked));
  const found = shipped.length > 0 ? fromOther(trial, variable, shipped) : absent(trial, row, variable);
  return found.map((one) => ({ ...about, ...one }));
}

/** A build or server value in what ships, each marker once. */
function letOut({ bundle, stage, given }: TrialOf, variable: Variable, shipped: readonly Arrival[]): RawFinding[] {
  const byMarker = new Map(shipped.toReversed().map((one) => [one.marker, one]));
  return [...byMarker.values()].map((one) => {
    const isGiven = given.has(one.marker.name) || one.marker.setAt.path !== undefined;
    const about = {
      ...{ variable: variable.name, reach: variable.reach, path: one.path, from: placeOf(one.marker) },
      ...{ encoding: [...one.encoding], source: one.origin ? `${one.origin.path}:${one.origin.line}` : undefined },
      ...{ isGiven },
    };
    const level = isGiven ? ('error' as const) : ('warning' as const);
    const more = { variable: variable.name, bundle: bundle.name, stage: stage.name, place: at(one), level };
    return finding('trial/lets-out', 'arrives', about, more);
  });
}

/** The difference of two builds tells that a value has an effect, and not that anybody can read it. */
function isMarked({ marker }: Arrival): boolean {
  return marker.text !== '';
}

function at({ path, inside, origin }: Arrival): Place {
  return origin ? { path: origin.path, inside: [], line: origin.line } : { path, inside: [...inside] };
}

/** A public value that came from another file than the contract says. */
function fromOther(
  { contract, stage, resolution, evidence }: TrialOf,
  variable: Variable,
  shipped: readonly Arrival[],
): RawFinding[] {
  const from = resolution.values.get(variable.name)?.from;
  const other = shipped.find(({ marker: { setAt } }) => setAt.path !== undefined && setAt.path !== from?.path);
  if (!other?.marker.setAt.path) return [];
  const { path, line } = other.marker.setAt;
  const owners = [...contract.stages.values()]
    .filter(({ layers }) => layers.some((layer) => layer.kind === 'file' && layer.name === path))
    .map(({ name }) => name);
  const place: Place = { path, inside: [], ...(line !== undefined && { line, column: 1 }) };
  if (owners.length > 0 && !owners.includes(stage.name))
    return [
      finding(
        'trial/other-file',
        'stage',
        { variable: variable.name, path, stages: owners, stage: stage.name },
        { place },
      ),
    ];
  if (!from) return [];
  if (evidence.overridden?.includes(other.marker.name)) {
    const about = { variable: variable.name, path, won: from.path ?? 'the environment', stage: stage.name };
    return [finding('trial/other-file', 'alone', about, { place, level: 'note' })];
  }
  const won = from.path ?? 'the environment';
  return [finding('trial/other-file', 'layer', { variable: variable.name, path, won, stage: stage.name }, { place })];
}

/** A public value that code of the bundle reads, and that arrives nowhere. */
function absent({ readBy, evidence, bundle }: TrialOf, row: TrialRow, variable: Variable): RawFinding[] {
  if (!evidence.hasOutput || row.isUnmarked || !belongsTo(bundle, variable)) return [];
  const isKnown = [...evidence.markers.map(({ name }) => name), ...(evidence.compared ?? [])].includes(row.name);
  const place = isKnown ? readBy.get(row.name)?.shipped() : undefined;
  if (!place) return [];
  const about = {
    variable: variable.name,
    name: row.name,
    hasPrefix: bundle.prefixes.length === 0 || prefixOf(bundle, row.name) !== undefined,
  };
  return [finding('trial/absent', 'nowhere', about, { place: codePlace(place) })];
}

/** Declared for browsers, read by nothing, and in no file. */
function unusedIn({ contract, bundle, stage, evidence, readBy }: TrialOf, rows: readonly TrialRow[]): RawFinding[] {
  if (!evidence.hasOutput) return [];
  return [...contract.variables.values()].flatMap((variable) => {
    if (variable.reach !== 'public' || !belongsTo(bundle, variable)) return [];
    const own = rows.filter((row) => row.variable === variable.name);
    const isSeen = own.some(
      ({ name, arrivesIn, isUnmarked }) =>
        isUnmarked ||
        arrivesIn.length > 0 ||
        readBy.has(name) ||
        evidence.asked.some((one) => one.name === name && one.at.length > 0),
    );
    if (own.length === 0 || isSeen) return [];
    const about = { variable: variable.name, bundle: bundle.name };
    return [finding('trial/unused', 'nowhere', about, { ...about, stage: stage.name })];
  });
}

/** Names that the project's own files ask for, in the build or in code, and that no file sets. */
function nowhere({ contract, evidence, readBy, bundle, stage }: TrialOf, named: Named): RawFinding[] {
  const inFiles = new Set(evidence.markers.filter(({ setAt }) => setAt.path !== undefined).map(({ name }) => name));
  const asked = new Map(evidence.asked.flatMap(({ name, at: [place] }) => (place ? [[name, place]] : [])));
  return [...new Set([...asked.keys(), ...readBy.keys()])].flatMap((name) => {
    const isKnown = inFiles.has(name) || evidence.unmarked.includes(name) || named.has(name);
    const place = isKnown || isForeignName(name) ? undefined : (readBy.get(name)?.all[0] ?? asked.get(name));
    if (!place) return [];
    const near = nearest(name, [...contract.variables.keys()]);
    const more = { bundle: bundle.name, stage: stage.name, place: codePlace(place) };
    return [finding('trial/asked', 'nowhere', { name, near }, more)];
  });
}
