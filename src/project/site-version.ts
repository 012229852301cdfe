import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import type { Since } from '../core/findings/change.js';
import { Failure } from '../core/findings/failure.js';
import type { ServedFacts } from '../core/probe/site.js';
import type { ServedBuild } from '../core/probe/version.js';
import { builtValues, changesBetween, currentValues } from '../core/receipt/changes.js';
import type { Receipt } from '../core/receipt/receipt.js';
import { servesBoth } from '../core/receipt/serves-both.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { commandsFor } from './changes.js';
import type { LastBuilds } from './last-build.js';
import type { Project } from './open.js';
import { readReceipt } from './receipts.js';

/** Builds that a site is compared with. */
export interface VersionParts {
  project: Project;
  bundle: Bundle;
  resolution: Resolution;
  builds: LastBuilds;
}

/** Receipts of a bundle, the newest first. Files can be compared with each; values only with those of this machine's key. */
export function receiptsOf({ builds, bundle }: Pick<VersionParts, 'builds' | 'bundle'>): Receipt[] {
  return builds.all.filter((one) => one.bundle.name === bundle.name).map(({ stored }) => stored.receipt);
}

/** Files of a site, compared with builds. */
export interface ServedFiles extends ServedBuild {
  /** Scripts of the served build that the site does not have. */
  lacks: ServedFacts['lacks'];
}

/**
 * Compares a site with the builds of receipts: which one it serves, and what changed since.
 * @param receipts the newest first @param declared the build that should be there, if the user named one
 */
export function servedFacts(
  parts: VersionParts,
  stage: string,
  { receipt, builds, unknown, lacks }: ServedFiles,
  receipts: readonly Receipt[],
  declared: Receipt | undefined,
): ServedFacts {
  // One build for several stages is right for each of them.
  const isRight = (one: Receipt) => one.predicate.stage === stage || fitsStage(parts, one);
  const newest = receipts.find(isRight);
  const isComparable =
    receipt && [stage, newest?.predicate.stage, declared?.predicate.stage].includes(receipt.predicate.stage);
  const key = receipt && parts.builds.keyOf(receipt);
  const inShort = ({ predicate }: Receipt) => ({ stage: predicate.stage, builtAt: predicate.builtAt });
  return {
    receipts: receipts.length,
    builds: builds.map(({ receipt: { predicate }, urls }) => ({
      ...{ bundle: predicate.bundle, stage: predicate.stage, builtAt: predicate.builtAt },
      urls,
    })),
    unknown,
    lacks,
    ...(newest && { newest: inShort(newest) }),
    ...(declared && { declared: inShort(declared) }),
    ...(receipt && newest && haveSameValues(parts, receipt, newest) && { hasAllValues: true }),
    ...(receipt && !key && { isOfOtherKey: true }),
    since: isComparable ? sinceBuild(parts, stage, receipt, newest ?? receipt) : [],
  };
}

/** Tells whether two builds were given the same values. */
function haveSameValues({ builds }: VersionParts, a: Receipt, b: Receipt): boolean {
  if (!builds.keyOf(a) || !builds.keyOf(b)) return false;
  const given = ({ predicate }: Receipt) =>
    predicate.values.map(({ name, fingerprint }) => `${name} ${fingerprint}`).sort();
  return given(a).join() === given(b).join();
}

/**
 * The build that a site should serve, as `--build` names it.
 * @param named `previous`, the path of a receipt, or a commit
 * @param receipts the newest first
 * @throws Failure if there is no such build
 */
export function declaredBuild(
  { project, builds }: Pick<VersionParts, 'project' | 'builds'>,
  named: string,
  { stage, receipts, cwd }: { stage: string; receipts: readonly Receipt[]; cwd: string },
): Receipt {
  const ofStage = receipts.filter(({ predicate }) => predicate.stage === stage);
  if (named === 'previous') {
    const previous = ofStage[1];
    if (previous) return previous;
    throw new Failure(
      `--build previous needs two builds for ${stage}, and there ${ofStage.length === 1 ? 'is one receipt' : 'are no receipts'}`,
      'build with `adder with`, which writes receipts, or name a directory of them with --receipts',
    );
  }
  if (named.endsWith('.json')) return readReceipt(project.files, project.files.path.resolve(cwd, named), named).receipt;
  const isCommit = /^[0-9a-f]{7,64}$/i.test(named);
  const found = isCommit
    ? ofStage.find(({ predicate: { revision } }) => revision?.id.startsWith(named.toLowerCase()))
    : undefined;
  if (found) return found;
  const known = builds.any ? `no receipt of a build for ${stage} is of ${named}` : 'there are no receipts';
  throw new Failure(
    isCommit ? known : `--build ${named} is no build`,
    'use `previous`, the path of a receipt, or a commit that was built (7 digits or more)',
  );
}

/** Tells whether builds for a receipt's stage and for this one differ in nothing that is inlined. */
function fitsStage({ project, bundle, resolution, builds }: VersionParts, receipt: Receipt): boolean {
  const { contract } = project;
  const buildsAlike = contract.stages.get(receipt.predicate.stage)?.buildAs === resolution.stage.buildAs;
  const given = givenValues(contract, bundle, resolution);
  const key = builds.keyOf(receipt);
  return key !== undefined && servesBoth({ receipt, given, key, buildsAlike });
}

/** Changes since a build was made. A value that the newest build has only needs to be deployed. */
function sinceBuild(
  { project, bundle, resolution, builds }: VersionParts,
  stage: string,
  receipt: Receipt,
  newest: Receipt,
): Since[] {
  const key = builds.keyOf(receipt);
  if (!key) return [];
  const { contract } = project;
  const now = currentValues({ bundle, resolution, given: givenValues(contract, bundle, resolution) }, key);
  const compared = (one: Receipt) => changesBetween(builtValues(one), now, { contract, bundle, isBuilt: false });
  const left = new Set(builds.keyOf(newest) ? compared(newest).map(({ variable }) => variable) : []);
  const isOfStage = receipt.predicate.stage === stage;
  const changes = compared(receipt)
    // Load-time values are compared with the served file itself, and a server value belongs to one stage.
    .filter(({ action, reach }) => action !== 'reload' && (isOfStage || reach === 'public'))
    .map((change) =>
      change.action === 'rebuild' && !left.has(change.variable)
        ? { ...change, action: 'redeploy' as const, because: 'inlined, and the newest build has the new value' }
        : change,
    );
  if (changes.length === 0) return [];
  const { builtAt } = receipt.predicate;
  return [{ bundle: bundle.name, stage, builtAt, ...commandsFor(stage, bundle, receipt), changes }];
}
