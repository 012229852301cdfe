import { type FindingContext, finding, type Place, type RawFinding } from '../findings/finding.js';
import type { Excerpt } from '../text/frame.js';
import type { BuildFacts, BuiltValue } from './build-facts.js';
import type { HeldPlace } from './receipt.js';
import { isBehindItsName } from './receipt-name.js';

/** The files and values of an output as they are now. Paths are those of the receipt. */
export interface OutputNow {
  /** Files that exist and have the digest that the receipt has. */
  unchanged: ReadonlySet<string>;
  /** Files that exist. */
  present: ReadonlySet<string>;
  /** Public variables whose current value is in the output. */
  seen: ReadonlySet<string>;
}

/** Gives the place of a value in lines and columns, and how it looks. */
export type Locate = (variable: string, place: HeldPlace) => { place: Place; excerpt?: Excerpt };

/** Findings from comparing the files in the output with the receipt of the last build. */
export function stalenessFindings(stage: string, build: BuildFacts, now: OutputNow, locate: Locate): RawFinding[] {
  const { bundle, rebuild, receipt } = build;
  const more: FindingContext = { stage, bundle, place: { path: receipt, inside: [] } };
  if (!build.servesStage)
    return [finding('stale/receipt', 'other-stage', { rebuild, bundle, builtFor: build.stage, stage }, more)];
  return [
    ...otherClock(build, more),
    ...otherFiles(build, now, more),
    ...build.values.flatMap((value) => ofValue(value, build, now, more, locate)),
    ...build.added.map((variable) =>
      finding('stale/receipt', 'not-yet', { rebuild, bundle, variable }, { ...more, level: 'warning' }),
    ),
  ];
}

function ofValue(
  value: BuiltValue,
  build: BuildFacts,
  now: OutputNow,
  more: FindingContext,
  locate: Locate,
): RawFinding[] {
  const { variable, relation, places } = value;
  const about = { rebuild: build.rebuild, bundle: build.bundle, variable };
  if (relation === 'withdrawn') return [finding('stale/receipt', 'no-more', about, more)];
  if (relation === 'unknown') return [];
  if (relation === 'changed') return changed(value, build, now, more, locate);
  const isGone = !value.isBuildValue && places.length > 0 && !now.seen.has(variable);
  return isGone ? [finding('stale/missing-value', 'no-longer', about, more)] : [];
}

/** One finding for an old value: at its first place, if the files are those of the build. */
function changed(
  { variable, current, places: all, modules, isPublic, isBuildValue }: BuiltValue,
  { bundle, builtAt, rebuild }: BuildFacts,
  { unchanged, seen }: OutputNow,
  more: FindingContext,
  locate: Locate,
): RawFinding[] {
  const old = { rebuild, bundle, variable, builtAt, current };
  const places = all.filter(({ path }) => unchanged.has(path));
  const [first] = places;
  // Other files with the current value were built since then, without a receipt.
  if (!first) return seen.has(variable) || isBuildValue ? [] : [finding('stale/receipt', 'old-value', old, more)];
  const { place, excerpt } = locate(variable, first);
  // A variable may have become secret since the build, so only public values are shown.
  const where = { place, ...(isPublic && excerpt && { excerpt }) };
  return [finding('stale/past-value', 'in-build', { ...old, places: places.length, modules }, { ...more, ...where })];
}

function otherClock({ bundle, builtAt, receipt }: BuildFacts, more: FindingContext): RawFinding[] {
  if (!isBehindItsName(receipt, builtAt)) return [];
  return [finding('stale/receipt', 'clock', { bundle, builtAt }, { ...more, level: 'note' })];
}

/** Tells whether the files are those that the receipt is about. */
function otherFiles(
  { files, rebuild, builtAt }: BuildFacts,
  { present, unchanged }: OutputNow,
  more: FindingContext,
): RawFinding[] {
  const missing = files.filter(({ name }) => !present.has(name)).length;
  const differing = files.length - missing - unchanged.size;
  if (missing + differing === 0) return [];
  const about = { rebuild, builtAt, files: files.length, differing, missing };
  return [finding('stale/receipt', 'other-files', about, { ...more, level: 'warning' })];
}
