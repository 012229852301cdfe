import type { Variable } from '../contract/contract.js';
import { type FindingContext, finding, type Place, type RawFinding } from '../findings/finding.js';
import type { Source } from '../resolve/layer.js';
import { describeSource } from '../resolve/layer.js';
import type { Secret } from '../secrets/secret.js';
import type { Excerpt } from '../text/frame.js';
import { fingerprint, type HeldPlace, type Receipt, type ReceiptValue, rebuildCommand } from './receipt.js';

/** What a build of the bundle would be given now. */
export interface GivenValue {
  variable: Variable;
  value: Secret;
  from?: Source;
}

/** What is known of a bundle's artifacts as they are now. */
export interface ArtifactFacts {
  receipt: Receipt;
  /** The receipt's path. */
  receiptPath: string;
  key: Uint8Array;
  given: ReadonlyMap<string, GivenValue>;
  /** The command that the contract has for the bundle. */
  build?: readonly string[] | undefined;
  /** Whether builds of the two stages differ in nothing but values. */
  buildsAlike: boolean;
  /** Files that are there and have the digest that the receipt has. */
  unchanged: ReadonlySet<string>;
  /** Files that are there. */
  present: ReadonlySet<string>;
  /** Public variables whose present value is in the artifacts. */
  seen: ReadonlySet<string>;
  /** The place in lines and columns, and how it looks. */
  locate(place: HeldPlace): { place: Place; excerpt?: Excerpt };
}

/** What the receipt of the last build tells about the files in the output now. */
export function stalenessFindings(stage: string, facts: ArtifactFacts): RawFinding[] {
  const { receipt, given, key } = facts;
  const { bundle, values, stage: builtFor } = receipt.predicate;
  const { rebuild, more } = aboutBuild(stage, facts);
  if (builtFor !== stage && !servesBoth(facts))
    return [finding('stale/receipt', 'other-stage', { rebuild, bundle, builtFor, stage }, more)];
  const findings = otherFiles(stage, facts);
  for (const value of values) {
    const { name: variable } = value;
    const now = given.get(variable);
    // Build values are in no artifact, and a running server reads its own: see changes.ts.
    if (value.reach !== 'public' || now?.variable.delivery === 'runtime') continue;
    if (!now) findings.push(finding('stale/receipt', 'no-more', { rebuild, bundle, variable }, more));
    else if (fingerprint(key, variable, now.value) !== value.fingerprint)
      findings.push(...changed(stage, value, now, facts));
    else if (isGone(value, facts))
      findings.push(finding('stale/missing-value', 'no-longer', { rebuild, bundle, variable }, more));
  }
  const known = new Set(values.map(({ name }) => name));
  for (const { variable } of given.values()) {
    if (variable.reach !== 'public' || variable.delivery === 'runtime' || known.has(variable.name)) continue;
    const about = { rebuild, bundle, variable: variable.name };
    findings.push(finding('stale/receipt', 'not-yet', about, { ...more, level: 'warning' }));
  }
  return findings;
}

/** One build for several stages: the inlined values are equal, and the others are read when the app loads. */
export function servesBoth({
  receipt,
  given,
  key,
  buildsAlike,
}: Pick<ArtifactFacts, 'receipt' | 'given' | 'key' | 'buildsAlike'>): boolean {
  const inlined = receipt.predicate.values.filter(({ reach }) => reach === 'public');
  const names = new Set(inlined.map(({ name }) => name));
  const isSame = inlined.every(({ name, fingerprint: built }) => {
    const now = given.get(name);
    return now !== undefined && fingerprint(key, name, now.value) === built;
  });
  return (
    buildsAlike &&
    isSame &&
    [...given.values()].every(({ variable }) => variable.reach !== 'public' || names.has(variable.name))
  );
}

/** One finding for an old value: at its first place, if the files are those of the build. */
function changed(stage: string, value: ReceiptValue, now: GivenValue, facts: ArtifactFacts): RawFinding[] {
  const { receipt, unchanged, seen } = facts;
  const { bundle, builtAt } = receipt.predicate;
  const { rebuild, more } = aboutBuild(stage, facts);
  const current = now.from?.path ? describeSource(now.from) : undefined;
  const old = { rebuild, bundle, variable: value.name, builtAt, current };
  const places = value.places.filter(({ path }) => unchanged.has(path));
  const [place] = places;
  // Other files with the current value were built since then, without a receipt.
  if (!place) return seen.has(value.name) ? [] : [finding('stale/receipt', 'old-value', old, more)];
  const located = facts.locate(place);
  const about = { ...old, places: places.length, modules: value.modules ?? [] };
  // A variable may have become secret since the build, so only public values are shown.
  const where = now.variable.reach === 'public' ? located : { place: located.place };
  return [finding('stale/past-value', 'in-build', about, { ...more, ...where })];
}

function isGone({ name, places }: ReceiptValue, { seen }: ArtifactFacts): boolean {
  return places.length > 0 && !seen.has(name);
}

/** Whether the files are those that the receipt is about. */
function otherFiles(stage: string, facts: ArtifactFacts): RawFinding[] {
  const { receipt, unchanged, present } = facts;
  const files = receipt.subject.length;
  const missing = receipt.subject.filter(({ name }) => !present.has(name)).length;
  const differing = files - missing - unchanged.size;
  if (missing + differing === 0) return [];
  const { rebuild, more } = aboutBuild(stage, facts);
  const about = { rebuild, builtAt: receipt.predicate.builtAt, files, differing, missing };
  return [finding('stale/receipt', 'other-files', about, { ...more, level: 'warning' })];
}

/** The command that builds the bundle again, and what all findings about its receipt have. */
function aboutBuild(stage: string, { receipt, receiptPath, build }: ArtifactFacts) {
  const { bundle } = receipt.predicate;
  return {
    rebuild: rebuildCommand(stage, receipt, build),
    more: { stage, bundle, place: { path: receiptPath, inside: [] } } satisfies FindingContext,
  };
}
