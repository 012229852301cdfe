import type { Hit, OnHit } from './matcher.js';

/** Places of one needle in one input that are told one by one; the rest is counted. */
export const MOST_PLACES = 100;

/** More data: URIs than any limit of members lets through: what is left out is told there. */
const MOST_MARKS = 250_000;

/** A matcher reports overlapping occurrences of one needle in any order: so many are kept that the first ones are among them. */
const KEPT = 4 * MOST_PLACES;

/** How many of a matcher's needles, from the first, are looked for, and how many behind them are marks; what follows are fragments. */
export interface Kinds {
  needles: number;
  marks: number;
}

/** What the first look at some bytes gave. Plain data, which threads can hand to one another. */
export interface FirstLook {
  bytes: number;
  /** By their start; of each needle no more than {@link MOST_PLACES}. */
  hits: Hit[];
  /** How often each needle is there. */
  perNeedle: Map<number, number>;
  /** Where the content of data: URIs begins. */
  marks: number[];
  /** Whether a fragment of a secret is there. */
  hasFragment: boolean;
  /** Whether nothing of it is a value's, or a piece of one. */
  isDull: boolean;
}

export function emptyLook(): FirstLook {
  return { bytes: 0, hits: [], perNeedle: new Map(), marks: [], hasFragment: false, isDull: true };
}

/** Puts what a matcher reports into a look. */
export function recorder(look: FirstLook, kinds: Kinds): OnHit {
  return (needle, start, end) => {
    if (needle < kinds.needles) {
      const known = look.perNeedle.get(needle) ?? 0;
      look.perNeedle.set(needle, known + 1);
      if (known < KEPT) look.hits.push({ needle, start, end });
    } else if (needle >= kinds.needles + kinds.marks) look.hasFragment = true;
    else if (look.marks.length < MOST_MARKS) look.marks.push(end);
  };
}

/** Looks at stretches of one input as one, in the order of the stretches. */
export function joinLooks(looks: readonly FirstLook[]): FirstLook {
  const joined = emptyLook();
  for (const { bytes, hits, perNeedle, marks, hasFragment } of looks) {
    joined.bytes += bytes;
    joined.hits.push(...hits);
    for (const [needle, count] of perNeedle) joined.perNeedle.set(needle, (joined.perNeedle.get(needle) ?? 0) + count);
    joined.marks.push(...marks);
    joined.hasFragment ||= hasFragment;
  }
  joined.marks.splice(MOST_MARKS);
  return settled(joined);
}

/** The hits in order, and no more of them than are told. However the bytes came, this is the same. */
export function settled(look: FirstLook): FirstLook {
  look.hits.sort((a, b) => a.start - b.start || a.needle - b.needle);
  const told = new Map<number, number>();
  look.hits = look.hits.filter(({ needle }) => {
    const count = (told.get(needle) ?? 0) + 1;
    told.set(needle, count);
    return count <= MOST_PLACES;
  });
  look.marks.sort((a, b) => a - b);
  look.isDull = look.hits.length === 0 && !look.hasFragment;
  return look;
}
