import type { Variable } from '../contract/contract.js';
import type { Place, RawFinding } from '../findings/finding.js';
import type { Source } from '../resolve/layer.js';
import { describeSource } from '../resolve/layer.js';
import type { Secret } from '../secrets/secret.js';
import { count, localTime } from '../text/display.js';
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
  const report = reporterFor(stage, facts);
  if (builtFor !== stage && !servesBoth(facts)) {
    return [report(undefined, 'stale/receipt', `${bundle} was last built for ${builtFor}, not for ${stage}`)];
  }
  const findings: RawFinding[] = otherFiles(facts).map((message) =>
    report(undefined, 'stale/receipt', message, 'warning'),
  );
  for (const value of values) {
    const now = given.get(value.name);
    // Build values are in no artifact, and a running server reads its own: see changes.ts.
    if (value.reach !== 'public' || now?.variable.delivery === 'runtime') continue;
    if (!now) findings.push(report(value, 'stale/receipt', noMore(bundle, value)));
    else if (fingerprint(key, value.name, now.value) !== value.fingerprint)
      findings.push(...changed(value, now, facts));
    else if (isGone(value, facts))
      findings.push(
        report(
          value,
          'stale/missing-value',
          `${bundle} contained the value of ${value.name} when it was built, but no longer does`,
        ),
      );
  }
  const known = new Set(values.map(({ name }) => name));
  for (const { variable } of given.values()) {
    if (variable.reach !== 'public' || variable.delivery === 'runtime' || known.has(variable.name)) continue;
    findings.push(report(variable, 'stale/receipt', `${bundle} was built before it got ${variable.name}`, 'warning'));
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
function changed(value: ReceiptValue, now: GivenValue, facts: ArtifactFacts): RawFinding[] {
  const { receipt, unchanged, seen } = facts;
  const { bundle, stage, builtAt } = receipt.predicate;
  const report = reporterFor(stage, facts);
  const current = now.from?.path ? `; the current value is at ${describeSource(now.from)}` : '';
  const message = `${bundle} still has the old value of ${value.name}, from its build on ${localTime(builtAt)}`;
  const [place, ...others] = value.places.filter(({ path }) => unchanged.has(path));
  if (!place) {
    // Other files with the current value were built since then, without a receipt.
    return seen.has(value.name) ? [] : [report(value, 'stale/receipt', message + current)];
  }
  const readers = value.modules?.length ? `, read by ${value.modules.join(' and ')}` : '';
  const more = others.length > 0 ? `, in ${count(others.length + 1, 'place')}` : '';
  const located = facts.locate(place);
  const finding = report(value, 'stale/past-value', message + more + readers + current);
  // A variable may have become secret since the build, so only public values are shown.
  return [{ ...finding, ...(now.variable.reach === 'public' ? located : { place: located.place }) }];
}

function noMore(bundle: string, { name }: ReceiptValue): string {
  return `${bundle} was built with ${name}, which it no longer gets`;
}

function isGone({ name, places }: ReceiptValue, { seen }: ArtifactFacts): boolean {
  return places.length > 0 && !seen.has(name);
}

/** Whether the files are those that the receipt is about. */
function otherFiles({ receipt, unchanged, present }: ArtifactFacts): string[] {
  const { builtAt } = receipt.predicate;
  const files = receipt.subject.length;
  const missing = receipt.subject.filter(({ name }) => !present.has(name)).length;
  const differing = files - missing - unchanged.size;
  if (missing + differing === 0) return [];
  const parts = [
    differing > 0 && `${count(differing, 'file')} differ${differing === 1 ? 's' : ''}`,
    missing > 0 && `${count(missing, 'file')} ${missing === 1 ? 'is' : 'are'} missing`,
  ];
  return [
    `the receipt of ${localTime(builtAt)} describes other files: of ${files}, ${parts.filter(Boolean).join(' and ')}`,
  ];
}

type Say = (
  about: { name: string } | undefined,
  code: RawFinding['code'],
  message: string,
  level?: RawFinding['level'],
) => RawFinding;

function reporterFor(stage: string, { receipt, receiptPath, build }: ArtifactFacts): Say {
  const { bundle } = receipt.predicate;
  const remedy = `rebuild: ${rebuildCommand(stage, receipt, build)}`;
  return (about, code, message, level) => ({
    code,
    ...(level && { level }),
    ...(about && { variable: about.name }),
    stage,
    bundle,
    place: { path: receiptPath, inside: [] },
    message,
    remedy,
  });
}
