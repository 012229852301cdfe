import type { Anchor, Needle } from '../needles/index.js';
import type { Needles } from '../needles/needle-set.js';
import type { AnchorForm } from '../needles/tolerant/anchor-forms.js';
import { mayEscape } from '../needles/tolerant/compare.js';
import { findAcrossLines } from '../search/line-breaks.js';
import { findAll, type Hit, type Matcher } from '../search/matcher.js';
import { countAtMost } from '../text/sorted.js';
import type { Amount, Owner } from './plan.js';

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
  /** For a part of the value. */
  amount?: Amount;
}

/**
 * The matcher's hits as occurrences of values. If needles of one value overlap, only the longest counts. A value inside this
 * stage's own public value, such as the base of a URL, is not an occurrence; nor is a setting inside any other value.
 */
export function valueHits(hits: readonly VerifiedHit[], needles: Needles<Owner>): ValueHit[] {
  const byOwner = new Map<Owner, ValueHit[]>();
  for (const { needle, start, end, amount, ...hit } of hits) {
    const { owners, encoding: usual } = needles.at(needle) as Needle<Owner>;
    const encoding = hit.encoding ?? usual;
    for (const one of owners) {
      const owner = amount === undefined ? one : partOwner(one, amount);
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
    return (role === 'foreign' || role === 'past' || isInPublic === true) && present.has(hit);
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

  /** Tells whether one of the ranges contains all of another. */
  has({ start, end }: { start: number; end: number }): boolean {
    const count = countAtMost(this.#starts, start);
    return count > 0 && (this.#ends[count - 1] as number) >= end;
  }
}

/** The owner of a part of a secret; a piece, which is a part already, has no parts of its own. */
function partOwner(owner: Owner, amount: Amount): Owner | undefined {
  const isWhole = owner.role === 'secret' && !owner.part;
  return isWhole ? { ...owner, part: { part: { is: 'characters' }, amount, of: owner } } : undefined;
}

/**
 * The hits that are values: those of anchors with the value around them, and those of forms that may be broken into lines with
 * the rest around them. The hit then covers the whole value.
 * @param read bytes of the input
 * @param mostVain of a value's comparisons that may fail; then a hit of an anchor counts as it is
 */
export function wholeForms(
  hits: readonly Hit[],
  needles: Needles<unknown>,
  read: (from: number, to: number) => Uint8Array,
  mostVain = Number.POSITIVE_INFINITY,
): VerifiedHit[] {
  const last = new Map<Anchor['value'], VerifiedHit>();
  const vain = new Map<Anchor['value'], number>();
  const acceptsPart = rememberingParts();
  return hits.flatMap((hit): VerifiedHit[] => {
    const { unbroken, anchor, form } = needles.at(hit.needle) ?? {};
    if (anchor && form) {
      const known = last.get(anchor.value);
      // The second anchor of a value that was found by its first one.
      if (known && known.start <= hit.start && hit.end <= known.end) return [];
      const accepts = (first: number, end: number) => acceptsPart(anchor, first, end);
      const plainly = comparedPlainly(hit, anchor, accepts, form, read);
      const times = vain.get(anchor.value) ?? 0;
      if (!plainly && times >= mostVain) return anchor.isShort ? [] : [hit];
      const found = plainly ? plainly.found : compared(hit, anchor, form, read);
      if (!plainly && !found) vain.set(anchor.value, times + 1);
      if (found && found.amount === undefined) last.set(anchor.value, found);
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

/** Tells whether a part of a plain value counts. In repeated text the same part is asked for again and again. */
function rememberingParts(): (anchor: Anchor, first: number, end: number) => boolean {
  const answers = new Map<Anchor['value'], { first: number; end: number; isAccepted: boolean }>();
  return ({ value, acceptsPart }, first, end) => {
    const known = answers.get(value);
    if (known && known.first === first && known.end === end) return known.isAccepted;
    const isAccepted = acceptsPart?.(value.text.slice(first, end)) === true;
    answers.set(value, { first, end, isAccepted });
    return isAccepted;
  };
}

/** How many bytes after (or before) two places are equal, by comparisons of ever longer stretches. */
function equalBytes(bytes: Uint8Array, at: number, codes: Uint8Array, index: number, step: 1 | -1): number {
  const [text, value] = [bytes, codes].map((one) => Buffer.from(one.buffer, one.byteOffset, one.length)) as [
    Buffer,
    Buffer,
  ];
  let most = step === 1 ? Math.min(text.length - at, value.length - index) : Math.min(at, index);
  let equal = 0;
  for (let size = 32; equal < most; ) {
    const length = Math.min(size, most - equal);
    const [a, b] = step === 1 ? [at + equal, index + equal] : [at - equal - length, index - equal - length];
    if (text.compare(value, b, b + length, a, a + length) === 0) {
      equal += length;
      size *= 2;
    } else {
      most = equal + length - 1;
      size = length >> 1;
    }
  }
  return equal;
}

/** Bytes beyond the end of an agreement in which an escape could go on with it. */
const EDGE = 32;

/**
 * The same as {@link compared} for a value as it is in a text without escapes, in steps that are a thousand times cheaper: in a
 * text of one repeated character, every place has a hit.
 * @returns undefined if an escape near by, or the value itself, needs the full comparison
 */
function comparedPlainly(
  hit: Hit,
  { value }: Anchor,
  accepts: (first: number, end: number) => boolean,
  { recoding, index }: AnchorForm,
  read: (from: number, to: number) => Uint8Array,
): { found: VerifiedHit | undefined } | undefined {
  const codes = recoding.kind === 'text' ? value.plainCodes : undefined;
  if (!codes) return undefined;
  const from = Math.max(0, hit.start - index - EDGE);
  const bytes = read(from, hit.start - index + codes.length + EDGE);
  const at = hit.start - from;
  const first = index - equalBytes(bytes, at, codes, index, -1);
  const end = index + equalBytes(bytes, at, codes, index, 1);
  const [start, stop] = [at - index + first, at - index + end];
  for (let near = Math.max(0, start - EDGE); near < Math.min(bytes.length, stop + EDGE); near++)
    if ((near < start || near >= stop) && mayEscape(bytes[near] as number)) return undefined;
  const count = end - first;
  const isWhole = count === codes.length;
  if (!isWhole && !accepts(first, end)) return { found: undefined };
  return {
    found: {
      needle: hit.needle,
      start: from + start,
      end: from + stop,
      encoding: ['plain'],
      ...(!isWhole && { amount: { found: count, all: value.length } }),
    },
  };
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
    ...(!match.isWhole && { amount: { found: match.characters, all: value.length } }),
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

/** Tells whether only a part of the value is meant, which other values may share. */
export function isPartial({ owner }: Pick<ValueHit, 'owner'>): boolean {
  return owner.part !== undefined;
}

function longestOfOverlaps(hits: ValueHit[]): ValueHit[] {
  const kept: ValueHit[] = [];
  // A whole value wins over an equally long part.
  const order = (a: ValueHit, b: ValueHit) =>
    a.start - b.start || b.end - a.end || Number(isPartial(a)) - Number(isPartial(b));
  for (const hit of hits.sort(order)) {
    const last = kept.at(-1);
    if (!last || hit.start >= last.end) kept.push(hit);
    else if (hit.end - hit.start > last.end - last.start) kept[kept.length - 1] = hit;
  }
  return kept;
}
