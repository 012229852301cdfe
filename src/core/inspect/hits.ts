import type { Needle } from '../needles/index.js';
import { findAcrossLines } from '../search/line-breaks.js';
import { findAll, type Hit, type Matcher } from '../search/matcher.js';
import type { Owner } from './plan.js';

/** One occurrence of one variable's value in one file. */
export interface ValueHit {
  owner: Owner;
  encoding: readonly string[];
  start: number;
  end: number;
}

/**
 * The matcher's hits as occurrences of values. If needles of one value overlap, only the longest counts. A value inside this
 * stage's own public value, such as the base of a URL, is not an occurrence; nor is a setting inside any other value.
 */
export function valueHits(hits: readonly Hit[], needles: readonly Needle<Owner>[]): ValueHit[] {
  const byOwner = new Map<Owner, ValueHit[]>();
  for (const { needle, start, end } of hits) {
    const { owners, encoding } = needles[needle] as Needle<Owner>;
    for (const owner of owners) {
      // A whole value contains its pieces.
      const whole = owner.part?.of ?? owner;
      const known = byOwner.get(whole);
      if (known) known.push({ owner, encoding, start, end });
      else byOwner.set(whole, [{ owner, encoding, start, end }]);
    }
  }
  const all = [...byOwner.values()].flatMap(longestOfOverlaps);
  const present = all.filter(({ owner }) => owner.role === 'present');
  const whole = all.filter((hit) => !isPartial(hit));
  return all
    .filter((hit) => !isPartial(hit) || !whole.some(({ start, end }) => start <= hit.start && end >= hit.end))
    .filter((hit) => !isExpectedInside(hit, present, all))
    .sort((a, b) => a.start - b.start || a.owner.variable.localeCompare(b.owner.variable));
}

function isExpectedInside(hit: ValueHit, present: readonly ValueHit[], all: readonly ValueHit[]): boolean {
  const { role, isInPublic } = hit.owner;
  const covers = (own: ValueHit) => own !== hit && own.start <= hit.start && own.end >= hit.end;
  if (role === 'setting') return all.some((own) => own.owner.role !== 'setting' && covers(own));
  return (role === 'foreign' || isInPublic === true) && present.some(covers);
}

/**
 * Part of a form that may be broken into lines counts if the rest surrounds it; the hit then covers the whole form.
 * @param read bytes of the input
 */
export function wholeForms(
  hits: readonly Hit[],
  needles: readonly Pick<Needle<unknown>, 'unbroken'>[],
  read: (from: number, to: number) => Uint8Array,
): Hit[] {
  return hits.flatMap((hit) => {
    const { unbroken } = needles[hit.needle] ?? {};
    if (unbroken === undefined) return [hit];
    const from = Math.max(0, hit.start - 2 * unbroken.length);
    const found = findAcrossLines(read(from, hit.end + 2 * unbroken.length), unbroken);
    // Without a break, another needle finds it.
    if (!found || found.end - found.start === unbroken.length) return [];
    return [{ ...hit, start: from + found.start, end: from + found.end }];
  });
}

/** The values in bytes in memory. @param matcher of the needles, optionally of more after them */
export function valuesIn(matcher: Matcher, needles: readonly Needle<Owner>[], bytes: Uint8Array): ValueHit[] {
  const hits = findAll(matcher, bytes).filter(({ needle }) => needle < needles.length);
  return valueHits(
    wholeForms(hits, needles, (from, to) => bytes.subarray(from, to)),
    needles,
  );
}

/** Whether only a part of the value is meant, which other values may share. */
export function isPartial({ owner }: Pick<ValueHit, 'owner'>): boolean {
  return owner.part !== undefined;
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
