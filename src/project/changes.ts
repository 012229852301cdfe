import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import type { Change, Since } from '../core/findings/change.js';
import { Failure } from '../core/findings/failure.js';
import { builtValues, changesBetween, currentValues } from '../core/receipt/changes.js';
import { keyMark, type Receipt, rebuildCommand } from '../core/receipt/receipt.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { newestReceipt, readKey } from '../host/state.js';
import type { Project } from './open.js';

/**
 * What changed since the last build of each bundle for a stage. Bundles without a readable receipt of the stage have none: this
 * only adds to a report that does not depend on it.
 * @param resolutionFor the stage as a bundle sees it
 */
export function changesSinceBuilds(
  project: Project,
  stage: string,
  resolutionFor: (bundle: Bundle) => Resolution | undefined,
): Since[] {
  const key = keyIfReadable(project);
  if (!key) return [];
  const all = [...project.contract.bundles.values()].flatMap((bundle): Since[] => {
    const receipt = newestReceipt(project, bundle.name).stored?.receipt;
    const resolution = resolutionFor(bundle);
    if (!receipt || !resolution || receipt.predicate.stage !== stage) return [];
    if (receipt.predicate.key !== undefined && receipt.predicate.key !== keyMark(key)) return [];
    const now = { bundle, resolution, given: givenValues(project.contract, bundle, resolution) };
    const comparison = { contract: project.contract, bundle, isBuilt: false };
    const changes = changesBetween(builtValues(receipt), currentValues(now, key), comparison);
    return [
      {
        bundle: bundle.name,
        stage,
        builtAt: receipt.predicate.builtAt,
        changes,
        ...commandsFor(stage, bundle, receipt),
      },
    ];
  });
  return withoutRepeats(all).filter(({ changes }) => changes.length > 0);
}

/** How to build a bundle for a stage again, and how to write its values file. */
export function commandsFor(stage: string, bundle: Bundle, receipt: Receipt): Pick<Since, 'rebuild' | 'reload'> {
  const { name, build, output } = bundle;
  return {
    rebuild: rebuildCommand(stage, receipt, build),
    reload: `adder emit runtime --stage ${stage} --bundle ${name} --into ${output[0] ?? 'DIST'}`,
  };
}

/** A server value is listed for the server that gets it; without one, once. */
function withoutRepeats(all: readonly Since[]): Since[] {
  const seen = new Set(all.flatMap(({ changes }) => changes.flatMap((one) => (one.bundle ? one.variable : []))));
  const isNew = ({ bundle, reach, variable }: Change) => {
    if (bundle !== undefined || reach !== 'server') return true;
    const isFirst = !seen.has(variable);
    seen.add(variable);
    return isFirst;
  };
  return all.map((one) => ({ ...one, changes: one.changes.filter(isNew) }));
}

function keyIfReadable(project: Project): Uint8Array | undefined {
  try {
    return readKey(project);
  } catch (error) {
    if (error instanceof Failure) return undefined;
    throw error;
  }
}
