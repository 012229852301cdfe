import type { Bundle } from '../contract/contract.js';
import { within } from '../files/within.js';
import { toolchainOf } from '../toolchains/index.js';
import type { BundleFacts } from './rule.js';

/** The contract's settings of a bundle, for rules over its artifacts. */
export function bundleFacts(bundle: Bundle): BundleFacts {
  const { productionBuild } = toolchainOf(bundle);
  const { runs, serverCode, forbidsMaps, build } = bundle;
  return {
    runs,
    forbidsMaps,
    ...(serverCode.length > 0 && { isServerCode: within(serverCode) }),
    ...(build && { isBuiltHere: true }),
    ...(productionBuild !== undefined && { productionBuild }),
  };
}
