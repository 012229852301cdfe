import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import type { Since } from '../core/findings/change.js';
import type { Doubt } from '../core/findings/check.js';
import { finding, type RawFinding } from '../core/findings/finding.js';
import { type Site, shownUrl, siteFinding } from '../core/probe/site.js';
import { type ServedBuild, versionFindings } from '../core/probe/version.js';
import { builtValues, changesBetween, currentValues } from '../core/receipt/changes.js';
import { isOfKey, type Receipt } from '../core/receipt/receipt.js';
import { servesBoth } from '../core/receipt/staleness.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { count } from '../core/text/display.js';
import { commandsFor } from './changes.js';
import type { LastBuilds } from './last-build.js';
import type { Project } from './open.js';

/** What a site is compared with. */
export interface VersionParts {
  project: Project;
  bundle: Bundle;
  resolution: Resolution;
  builds: LastBuilds;
}

/** Which build is served, as far as receipts tell. */
export interface VersionCheck {
  findings: RawFinding[];
  doubts: Doubt[];
  since: Since[];
  /** Whether any receipt describes the files. */
  isKnown: boolean;
  /** Whether another build than the right one is served, wholly or in part. */
  isOther: boolean;
}

/** Receipts of a bundle that this machine can compare, the newest first. */
export function receiptsOf({ builds, bundle }: Pick<VersionParts, 'builds' | 'bundle'>): Receipt[] {
  return builds.all
    .filter((one) => one.bundle.name === bundle.name)
    .map(({ stored }) => stored.receipt)
    .filter((receipt) => isOfKey(receipt, builds.key));
}

/** Compares a site with the builds of receipts: which one it serves, and what changed since. */
export function checkVersion(
  parts: VersionParts,
  site: Site,
  served: ServedBuild,
  receipts: readonly Receipt[],
): VersionCheck {
  const { bundle } = parts;
  const { receipt, unknown } = served;
  const doubt = (because: string, remedy: string): Doubt => ({
    question: 'current',
    bundle: bundle.name,
    because,
    remedy,
  });
  if (!receipt) {
    const because =
      receipts.length === 0
        ? `${bundle.name} has no receipt on this machine`
        : 'no receipt describes the files that the site serves';
    const build = `build with \`adder with ${site.stage} --bundle ${bundle.name}\` on this machine, and deploy that build`;
    return { findings: [], doubts: [doubt(because, build)], since: [], isKnown: false, isOther: false };
  }
  // One build for several stages is right for each of them.
  const newest = receipts.find((one) => one.predicate.stage === site.stage || fitsStage(parts, one));
  const findings = versionFindings(site, served, newest);
  const because = `${count(unknown.length, 'file')} of the site ${unknown.length === 1 ? 'is' : 'are'} of no build that a receipt describes`;
  const doubts =
    unknown.length === 0
      ? []
      : [doubt(because, 'see `served` in the JSON report, or inspect the output before it is deployed')];
  const isOther = findings.length > 0;
  const isComparable = [site.stage, newest?.predicate.stage].includes(receipt.predicate.stage);
  const since = isComparable ? sinceBuild(parts, site, receipt, newest ?? receipt) : [];
  return { findings: [...findings, ...oldValues(site, since)], doubts, since, isKnown: true, isOther };
}

/** Whether builds for a receipt's stage and for this one differ in nothing that is inlined. */
function fitsStage({ project, bundle, resolution, builds }: VersionParts, receipt: Receipt): boolean {
  const { contract } = project;
  const buildsAlike = contract.stages.get(receipt.predicate.stage)?.buildAs === resolution.stage.buildAs;
  const given = givenValues(contract, bundle, resolution);
  return servesBoth({ receipt, given, key: builds.key ?? new Uint8Array(), buildsAlike });
}

/** What changed since a build was made. A value that the newest build has only needs to be deployed. */
function sinceBuild(
  { project, bundle, resolution, builds }: VersionParts,
  { stage }: Site,
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

/** Values that no build has yet. Those of the newest build are part of the finding that the site is out of date. */
function oldValues(site: Site, since: readonly Since[]): RawFinding[] {
  return since.flatMap(({ changes, rebuild }) =>
    changes
      .filter(({ action }) => action === 'rebuild')
      .map(({ variable }) =>
        siteFinding(site, shownUrl(site.url), finding('stale/past-value', 'on-site', { variable, rebuild })),
      ),
  );
}
