import type { Place } from '../findings/finding.js';
import type { BuildFacts } from '../receipt/build-facts.js';
import type { HeldPlace } from '../receipt/receipt.js';
import type { Locate } from '../receipt/staleness.js';
import type { DigestedFile, OutputFacts } from './facts.js';

/** Finds the place of a value of a build in the files as they are now: in lines and columns, if it was located. */
export function locator(
  { located }: OutputFacts,
  { receipt }: BuildFacts,
  files: ReadonlyMap<string, DigestedFile>,
): Locate {
  return (variable, held) => {
    const known = located.find(
      (one) =>
        one.receipt === receipt && one.variable === variable && one.path === held.path && one.offset === held.offset,
    );
    if (known) return { place: known.place, ...(known.excerpt && { excerpt: known.excerpt }) };
    return { place: placeOf(held, files.get(held.path)) };
  };
}

function placeOf({ path, inside = [], offset, length }: HeldPlace, now: DigestedFile | undefined): Place {
  return { path: now?.path ?? path, inside: [...(now?.inside ?? []), ...inside], offset, length };
}
