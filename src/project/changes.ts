import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import { type Change, changesWhere, type Since } from '../core/findings/change.js';
import { builtValues, changesBetween, currentValues } from '../core/receipt/changes.js';
import { isOfKey, type Receipt, rebuildCommand } from '../core/receipt/receipt.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { emitRuntime } from '../core/runtime/runtime.js';
import type { LastBuilds } from './last-build.js';

/**
 * Changes since the last build of each bundle for a stage. Bundles without a readable receipt of the stage have none: this
 * only adds to a report that does not depend on it.
 * @param resolutionFor the stage as a bundle sees it
 */
export function changesSinceBuilds(
  builds: LastBuilds,
  stage: string,
  resolutionFor: (bundle: Bundle) => Resolution | undefined,
): Since[] {
  const { key } = builds;
  if (!key) return [];
  const { contract } = builds.project;
  const all = [...contract.bundles.values()].flatMap((bundle): Since[] => {
    const resolution = resolutionFor(bundle);
    const receipt = resolution && builds.receiptOf(bundle)?.receipt;
    if (!receipt || receipt.predicate.stage !== stage || !isOfKey(receipt, key)) return [];
    const now = { bundle, resolution, given: givenValues(contract, bundle, resolution) };
    const comparison = { contract, bundle, isBuilt: false };
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
  return withoutRepeats(all);
}

/** How to build a bundle for a stage again, and how to write its values file. */
export function commandsFor(stage: string, bundle: Bundle, receipt: Receipt): Pick<Since, 'rebuild' | 'reload'> {
  const { name, build, output } = bundle;
  return {
    rebuild: rebuildCommand(stage, receipt, build),
    reload: emitRuntime(stage, name, output[0] ?? 'DIST'),
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
  return changesWhere(all, isNew);
}
