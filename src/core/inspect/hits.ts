import type { Anchor, Needle } from '../needles/index.js';
import type { Needles } from '../needles/needle-set.js';
import type { AnchorForm } from '../needles/tolerant/anchor-forms.js';
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

/** A hit of a needle that was compared with its surroundings. */
export interface VerifiedHit extends Hit {
  /** How the value is encoded there; as the needle says, if absent. */
  encoding?: readonly string[];
  /** For a part of the value: how much, as a phrase. */
  part?: string;
}

/**
 * The matcher's hits as occurrences of values. If needles of one value overlap, only the longest counts. A value inside this
 * stage's own public value, such as the base of a URL, is not an occurrence; nor is a setting inside any other value.
 */
export function valueHits(hits: readonly VerifiedHit[], needles: Needles<Owner>): ValueHit[] {
  const byOwner = new Map<Owner, ValueHit[]>();
  for (const { needle, start, end, part, ...hit } of hits) {
    const { owners, encoding: usual } = needles.at(needle) as Needle<Owner>;
    const encoding = hit.encoding ?? usual;
    for (const one of owners) {
      const owner = part === undefined ? one : partOwner(one, part);
      if (!owner) continue;
      // A whole value contains its pieces.
      const whole = owner.part?.of ?? owner;
      const known = byOwner.get(whole);
      if (known) known.push({ owner, encoding, start, end });
      else byOwner.set(whole, [{ owner, encoding, start, end }]);
    }
  }
  const all = [...byOwner.values()].flatMap(longestOfOverlaps);
  const present = new Cover(all.filter(({ owner }) => owner.role === 'present'));
  const whole = new Cover(all.filter((hit) => !isPartial(hit)));
  const others = new Cover(all.filter(({ owner }) => owner.role !== 'setting'));
  const isExpected = (hit: ValueHit) => {
    const { role, isInPublic } = hit.owner;
    if (role === 'setting') return others.has(hit);
    return (role === 'foreign' || isInPublic === true) && present.has(hit);
  };
  return all
    .filter((hit) => !isPartial(hit) || !whole.has(hit))
    .filter((hit) => !isExpected(hit))
    .sort((a, b) => a.start - b.start || a.owner.variable.localeCompare(b.owner.variable));
}

/** Ranges that may contain others. A file may have thousands of both. */
class Cover {
  readonly #starts: number[] = [];
  /** The farthest end of all ranges up to each start. */
  readonly #ends: number[] = [];

  constructor(ranges: readonly { start: number; end: number }[]) {
    let farthest = 0;
    for (const { start, end } of [...ranges].sort((a, b) => a.start - b.start)) {
      farthest = Math.max(farthest, end);
      this.#starts.push(start);
      this.#ends.push(farthest);
    }
  }

  /** Whether one of the ranges contains all of another. */
  has({ start, end }: { start: number; end: number }): boolean {
    let [low, high] = [0, this.#starts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.#starts[middle] as number) <= start) low = middle + 1;
      else high = middle;
    }
    return low > 0 && (this.#ends[low - 1] as number) >= end;
  }
}

/** The owner of a part of a secret; a piece, which is a part already, has no parts of its own. */
function partOwner(owner: Owner, is: string): Owner | undefined {
  return owner.role === 'secret' && !owner.part ? { ...owner, part: { is, of: owner } } : undefined;
}

/**
 * The hits that are values: those of anchors with the value around them, and those of forms that may be broken into lines with
 * the rest around them. The hit then covers the whole value.
 * @param read bytes of the input
 */
export function wholeForms(
  hits: readonly Hit[],
  needles: Needles<unknown>,
  read: (from: number, to: number) => Uint8Array,
): VerifiedHit[] {
  const last = new Map<Anchor['value'], VerifiedHit>();
  return hits.flatMap((hit): VerifiedHit[] => {
    const { unbroken, anchor, form } = needles.at(hit.needle) ?? {};
    if (anchor && form) {
      const known = last.get(anchor.value);
      // The second anchor of a value that was found by its first one.
      if (known && known.start <= hit.start && hit.end <= known.end) return [];
      const found = compared(hit, anchor, form, read);
      if (found && found.part === undefined) last.set(anchor.value, found);
      return found ? [found] : [];
    }
    if (unbroken === undefined) return [hit];
    const from = Math.max(0, hit.start - 2 * unbroken.length);
    const found = findAcrossLines(read(from, hit.end + 2 * unbroken.length), unbroken);
    // Without a break, another needle finds it.
    if (!found || found.end - found.start === unbroken.length) return [];
    return [{ ...hit, start: from + found.start, end: from + found.end }];
  });
}

/** The value, or a part that counts, around a hit of its anchor. */
function compared(
  hit: Hit,
  { value, acceptsPart }: Anchor,
  form: AnchorForm,
  read: (from: number, to: number) => Uint8Array,
): VerifiedHit | undefined {
  const from = Math.max(0, hit.start - value.reach);
  const bytes = read(from, hit.end + value.reach);
  const text = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
  const match = value.match(form, text, { start: hit.start - from, end: hit.end - from });
  if (!match || (!match.isWhole && !acceptsPart?.(match.text))) return undefined;
  return {
    needle: hit.needle,
    start: from + match.start,
    end: from + match.end,
    encoding: match.encoding,
    ...(!match.isWhole && { part: `${match.characters} of ${value.length} characters` }),
  };
}

/** The values in bytes in memory. @param matcher of the needles, optionally of more after them */
export function valuesIn(matcher: Matcher, needles: Needles<Owner>, bytes: Uint8Array): ValueHit[] {
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
  // Of two equally long hits, the whole value counts.
  const order = (a: ValueHit, b: ValueHit) =>
    a.start - b.start || b.end - a.end || Number(isPartial(a)) - Number(isPartial(b));
  for (const hit of hits.sort(order)) {
    const last = kept.at(-1);
    if (!last || hit.start >= last.end) kept.push(hit);
    else if (hit.end - hit.start > last.end - last.start) kept[kept.length - 1] = hit;
  }
  return kept;
}
