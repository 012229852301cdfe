import { finding } from '../findings/finding.js';
import type { Conclusion } from './conclusion.js';

/** Values that a rebuild should have replaced: the output has an earlier one instead of the current one. */
export const pastValues: Conclusion = {
  findings({ past, present, bundle = '' }, { stage }) {
    const first = new Map(past.toReversed().map((one) => [one.variable, one]));
    return [...first.values()].flatMap(({ variable, place, builtAt, source, caches, uncached }) => {
      const about = { bundle, variable, builtAt, source, caches, uncached };
      return present.includes(variable) ? [] : [finding('stale/past-value', 'not-replaced', about, { stage, place })];
    });
  },
};
