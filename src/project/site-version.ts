import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import type { Since } from '../core/findings/change.js';
import type { ServedFacts } from '../core/probe/site.js';
import type { ServedBuild } from '../core/probe/version.js';
import { builtValues, changesBetween, currentValues } from '../core/receipt/changes.js';
import { isOfKey, type Receipt } from '../core/receipt/receipt.js';
import { servesBoth } from '../core/receipt/serves-both.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { commandsFor } from './changes.js';
import type { LastBuilds } from './last-build.js';
import type { Project } from './open.js';

/** Builds that a site is compared with. */
export interface VersionParts {
  project: Project;
  bundle: Bundle;
  resolution: Resolution;
  builds: LastBuilds;
}

/** Receipts of a bundle that this machine can compare, the newest first. */
export function receiptsOf({ builds, bundle }: Pick<VersionParts, 'builds' | 'bundle'>): Receipt[] {
  return builds.all
    .filter((one) => one.bundle.name === bundle.name)
    .map(({ stored }) => stored.receipt)
    .filter((receipt) => isOfKey(receipt, builds.key));
}

/** Compares a site with the builds of receipts: which one it serves, and what changed since. */
export function servedFacts(
  parts: VersionParts,
  stage: string,
  { receipt, builds, unknown }: ServedBuild,
  receipts: readonly Receipt[],
): ServedFacts {
  // One build for several stages is right for each of them.
  const newest = receipts.find((one) => one.predicate.stage === stage || fitsStage(parts, one));
  const isComparable = receipt && [stage, newest?.predicate.stage].includes(receipt.predicate.stage);
  return {
    receipts: receipts.length,
    builds: builds.map(({ receipt: { predicate }, urls }) => ({
      ...{ bundle: predicate.bundle, stage: predicate.stage, builtAt: predicate.builtAt },
      urls,
    })),
    unknown,
    ...(newest && { newest: { stage: newest.predicate.stage, builtAt: newest.predicate.builtAt } }),
    since: isComparable ? sinceBuild(parts, stage, receipt, newest ?? receipt) : [],
  };
}

/** Tells whether builds for a receipt's stage and for this one differ in nothing that is inlined. */
function fitsStage({ project, bundle, resolution, builds }: VersionParts, receipt: Receipt): boolean {
  const { contract } = project;
  const buildsAlike = contract.stages.get(receipt.predicate.stage)?.buildAs === resolution.stage.buildAs;
  const given = givenValues(contract, bundle, resolution);
  return servesBoth({ receipt, given, key: builds.key ?? new Uint8Array(), buildsAlike });
}

/** Changes since a build was made. A value that the newest build has only needs to be deployed. */
function sinceBuild(
  { project, bundle, resolution, builds }: VersionParts,
  stage: string,
  receipt: Receipt,
  newest: Receipt,
): Since[] {
  if (!builds.key) return [];
  const { contract } = project;
  const now = currentValues({ bundle, resolution, given: givenValues(contract, bundle, resolution) }, builds.key);
  const compared = (one: Receipt) => changesBetween(builtValues(one), now, { contract, bundle, isBuilt: false });
  const left = new Set(compared(newest).map(({ variable }) => variable));
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
