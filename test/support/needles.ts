import type { Needle } from '../../src/core/needles/index.js';
import type { Needles } from '../../src/core/needles/needle-set.js';

export function allOf<Owner>(needles: Needles<Owner>): Needle<Owner>[] {
  return Array.from({ length: needles.length }, (_, needle) => needles.at(needle) as Needle<Owner>);
}
