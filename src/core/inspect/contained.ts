import type { ContainedValue } from '../findings/contents.js';
import type { PresentValue } from './visit.js';

/**
 * The public values in one artifact, once for each file in it.
 * @param shown names of embedded files, as reports show them
 */
export function containedValues(
  present: readonly PresentValue[],
  where: Pick<ContainedValue, 'path' | 'bundle'>,
  shown: (inside: readonly string[]) => string[],
): ContainedValue[] {
  const values = new Map<string, ContainedValue>();
  for (const { owner, inside, origin } of present) {
    const key = JSON.stringify([owner.variable, inside]);
    const known = values.get(key);
    if (known) known.places++;
    else
      values.set(key, {
        variable: owner.variable,
        ...where,
        inside: shown(inside),
        places: 1,
        ...(origin && { origin }),
      });
  }
  return [...values.values()];
}
