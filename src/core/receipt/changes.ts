import type { Bundle, Contract, deliveries, Variable } from '../contract/contract.js';
import { belongsTo } from '../contract/names.js';
import type { Change } from '../findings/change.js';
import { placeText } from '../findings/place.js';
import type { Reach } from '../findings/reach.js';
import type { ValueSource } from '../resolve/layer.js';
import type { Resolution } from '../resolve/resolve.js';
import { joinWords } from '../text/nearest.js';
import { isUnknown, type Unset, unsetIn } from './environment.js';
import { fingerprint, type OtherValue, type Receipt, type ReceiptValue } from './receipt.js';
import type { GivenValue } from './serves-both.js';

/** The values of a build or of a stage, as fingerprints, so that either can be compared with the other. */
export interface Fingerprints {
  values: ReadonlyMap<string, Known>;
  /** True if load-time and server values are among them; receipts of earlier versions lack them. */
  hasOthers: boolean;
  /** Variables that the environment may give a stage, and does not give here. */
  unset?: Unset;
}

/** Properties of one value. */
interface Known {
  reach: Reach;
  delivery: (typeof deliveries)[number];
  fingerprint: string;
  /** Where its build had it from. */
  from?: NonNullable<ReceiptValue['from']>;
  /** True if the build had it. */
  isGiven: boolean;
  /** True if the build had the value in no artifact and no code reads it. */
  isUnused: boolean;
  /** True if the code reads it only in ways that a framework's server fills as it starts. */
  isReadAtStart?: true | undefined;
  /** True if the artifacts were not searched for it, because ordinary text may contain it. */
  isUnsought?: true | undefined;
  /** Files of the build that contain the value. */
  files: string[];
}

/** The values of a build. */
export function builtValues({ predicate }: Receipt): Fingerprints {
  const given = predicate.values.map((one): [string, Known] => [
    one.name,
    { ...one, delivery: one.delivery ?? 'inline', isGiven: true, isUnused: isUnused(one), files: filesOf(one) },
  ]);
  const others = (predicate.others ?? []).map((one): [string, Known] => [
    one.name,
    { ...one, isGiven: false, isUnused: false, files: [] },
  ]);
  return { hasOthers: predicate.others !== undefined, values: new Map([...given, ...others]) };
}

/** A value may be folded away by a minifier, so that only the code tells whether it is used. */
function isUnused({ places, modules }: ReceiptValue): boolean {
  return places.length === 0 && modules?.length === 0;
}

function filesOf({ places }: ReceiptValue): string[] {
  return [...new Set(places.map(({ path, inside = [] }) => placeText({ path, inside })))];
}

/** Values that a build of the bundle would get now, and the stage's other values. */
export interface StageValues {
  bundle: Bundle;
  resolution: Resolution;
  given: ReadonlyMap<string, GivenValue>;
}

/** The values of a stage, as {@link builtValues} has those of a build. */
export function currentValues(now: StageValues, key: Uint8Array): Fingerprints {
  const given = [...now.given.values()].map(({ variable: { name, reach, delivery }, value }): [string, Known] => [
    name,
    { reach, delivery, fingerprint: fingerprint(key, name, value), isGiven: true, isUnused: false, files: [] },
  ]);
  const others = otherValues(now, key).map((one): [string, Known] => [
    one.name,
    { ...one, isGiven: false, isUnused: false, files: [] },
  ]);
  return { hasOthers: true, values: new Map([...given, ...others]), unset: unsetIn(now.resolution) };
}

/** Load-time and server values, which the build does not get, for its receipt. */
export function otherValues({ bundle, resolution, given }: StageValues, key: Uint8Array): OtherValue[] {
  return [...resolution.values.values()].flatMap(({ variable, value, from }) => {
    const { name, reach, delivery } = variable;
    if (!value || given.has(name) || !isOther(bundle, variable)) return [];
    return [
      { name, reach, delivery, fingerprint: fingerprint(key, name, value), ...(from && { from: receiptSource(from) }) },
    ];
  });
}

/** The part of a source that a receipt keeps. */
export function receiptSource({ layer, path, line }: ValueSource): NonNullable<ReceiptValue['from']> {
  return { layer, ...(path && { path }), ...(line && { line }) };
}

/** Load-time values of the bundle, and server values. */
function isOther(bundle: Bundle, variable: Variable): boolean {
  return variable.reach === 'server' || (variable.delivery === 'runtime' && belongsTo(bundle, variable));
}

/** How two sets of values are compared. */
export interface Comparison {
  contract: Contract;
  bundle: Bundle;
  /** True if the second set is of a build, which only needs to be deployed. */
  isBuilt: boolean;
}

/** Every value that differs, with what to do. Values that only one side can know are left out. */
export function changesBetween(before: Fingerprints, after: Fingerprints, comparison: Comparison): Change[] {
  const names = [...new Set([...before.values.keys(), ...after.values.keys()])].sort();
  const knowsOthers = before.hasOthers && after.hasOthers;
  return names.flatMap((name): Change[] => {
    const pair: Pair = { was: before.values.get(name), is: after.values.get(name) };
    if (pair.was && !pair.is && after.unset && isUnknown({ name, ...pair.was }, after.unset)) return [];
    const { reach } = (pair.is ?? pair.was) as Known;
    const change = changeOf(pair, knowsOthers);
    if (!change) return [];
    const isOfNoBundle = reach === 'server' && comparison.bundle.runs !== 'server';
    const bundle = isOfNoBundle ? {} : { bundle: comparison.bundle.name };
    const files = pair.was?.files ?? [];
    return [{ variable: name, reach, ...bundle, change, ...actionFor(pair, comparison), files }];
  });
}

/** One value before and after; one of the two may be absent. */
interface Pair {
  was: Known | undefined;
  is: Known | undefined;
}

function changeOf({ was, is }: Pair, knowsOthers: boolean): Change['change'] | undefined {
  if (was && is) return was.fingerprint === is.fingerprint && was.isGiven === is.isGiven ? undefined : 'changed';
  const known = (is ?? was) as Known;
  // A machine that lacks a server value does not tell that it was removed.
  if (known.reach === 'server' || (!known.isGiven && !knowsOthers)) return undefined;
  return is ? 'added' : 'removed';
}

function actionFor({ was, is }: Pair, { contract, bundle, isBuilt }: Comparison): Pick<Change, 'action' | 'because'> {
  const { reach, delivery } = (is ?? was) as Known;
  const isReadAtStart = was?.isReadAtStart === true && was.files.length === 0;
  if (reach === 'server' || isReadAtStart || (bundle.runs === 'server' && delivery === 'runtime'))
    return { action: 'restart', because: `read by ${serversOf(contract)} at the start` };
  if (reach === 'build' && was?.files.length === 0) return ofBuildValue(was, bundle);
  if (reach === 'build' && !was) return { action: 'rebuild', because: 'the last build did not have it' };
  if (!was?.isGiven && !is?.isGiven)
    return { action: 'reload', because: 'read from the values file when the page loads' };
  if (was?.isUnused) return { action: 'nothing', because: `not read by the code of ${bundle.name}` };
  if (isBuilt) return { action: 'redeploy', because: 'inlined, and the later build has the new value' };
  return { action: 'rebuild', because: 'inlined' };
}

/** A build value that was in no file after the build, or that no search can find. */
function ofBuildValue({ isUnsought }: Known, { name }: Bundle): Pick<Change, 'action' | 'because'> {
  return isUnsought
    ? { action: 'rebuild', because: `may be in a file of ${name}: too ordinary to search for` }
    : { action: 'nothing', because: `was in no file of ${name} after the build` };
}

function serversOf({ bundles }: Contract): string {
  const names = [...bundles.values()].filter(({ runs }) => runs === 'server').map(({ name }) => name);
  return names.length === 0 ? 'the server' : joinWords(names);
}
