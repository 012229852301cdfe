import type { Needle } from '../needles/index.js';
import type { Hit } from '../search/matcher.js';
import type { Owner } from './plan.js';

/** One occurrence of one variable's value in one file. */
export interface ValueHit {
  owner: Owner;
  encoding: readonly string[];
  start: number;
  end: number;
}

/** Places of one value in one file that are told one by one; the rest is counted. */
export const MOST_PLACES = 100;

/**
 * The matcher's hits as occurrences of values: where needles of one value overlap, the longest stands for all of them,
 * and another stage's value inside this stage's own (a base address, say) is no finding.
 */
export function valueHits(hits: readonly Hit[], needles: readonly Needle<Owner>[]): ValueHit[] {
  const byOwner = new Map<Owner, ValueHit[]>();
  for (const { needle, start, end } of hits) {
    const { owners, encoding } = needles[needle] as Needle<Owner>;
    for (const owner of owners) {
      const known = byOwner.get(owner);
      if (known) known.push({ owner, encoding, start, end });
      else byOwner.set(owner, [{ owner, encoding, start, end }]);
    }
  }
  const all = [...byOwner.values()].flatMap(longestOfOverlaps);
  const present = all.filter(({ owner }) => owner.role === 'present');
  return all
    .filter(
      (hit) => hit.owner.role !== 'foreign' || !present.some((own) => own.start <= hit.start && own.end >= hit.end),
    )
    .sort((a, b) => a.start - b.start || a.owner.variable.localeCompare(b.owner.variable));
}

function longestOfOverlaps(hits: ValueHit[]): ValueHit[] {
  const kept: ValueHit[] = [];
  for (const hit of hits.sort((a, b) => a.start - b.start || b.end - a.end)) {
    const last = kept.at(-1);
    if (!last || hit.start >= last.end) kept.push(hit);
    else if (hit.end - hit.start > last.end - last.start) kept[kept.length - 1] = hit;
  }
  return kept;
}
