import { limits } from '../limits/index.js';
import { dropEmptyMarks } from '../unpack/data-uri.js';
import type { Hit, Matcher, OnHit } from './matcher.js';

/** More data: URIs than any limit of members lets through: what is left out is told there. */
const MOST_MARKS = 250_000;

/** A matcher reports overlapping occurrences of one needle in any order: so many are kept that the first ones are among them. */
const KEPT = 4 * limits.placesPerValue.value;

/** How many of a matcher's needles, from the first, are looked for, and how many behind them are marks; what follows are fragments. */
export interface Kinds {
  needles: number;
  marks: number;
}

/** What the first look at some bytes gave. Plain data, which threads can hand to one another. */
export interface FirstLook {
  bytes: number;
  /** By their start; of each needle no more than {@link limits.placesPerValue.value}. */
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

/**
 * Has a matcher look at the bytes in its window.
 * @param length how many @param offset of them in the input @param record of a {@link recorder} for the look
 */
export function feedLook(look: FirstLook, matcher: Matcher, length: number, offset: number, record: OnHit): void {
  const known = look.marks.length;
  matcher.feed(length, record);
  dropEmptyMarks(look.marks, known, matcher.window.subarray(0, length), offset);
}

/** Looks at stretches of one input as one, in the order of the stretches. */
export function joinLooks(looks: readonly FirstLook[]): FirstLook {
  const perNeedle = new Map<number, number>();
  for (const look of looks)
    for (const [needle, count] of look.perNeedle) perNeedle.set(needle, (perNeedle.get(needle) ?? 0) + count);
  return settled({
    ...emptyLook(),
    bytes: looks.reduce((sum, { bytes }) => sum + bytes, 0),
    // There may be more of them than a call takes arguments.
    hits: looks.flatMap(({ hits }) => hits),
    perNeedle,
    marks: looks.flatMap(({ marks }) => marks).slice(0, MOST_MARKS),
    hasFragment: looks.some(({ hasFragment }) => hasFragment),
  });
}

/** The hits in order, and no more of them than are told. However the bytes came, this is the same. */
export function settled(look: FirstLook): FirstLook {
  look.hits.sort((a, b) => a.start - b.start || a.needle - b.needle);
  const told = new Map<number, number>();
  look.hits = look.hits.filter(({ needle }) => {
    const count = (told.get(needle) ?? 0) + 1;
    told.set(needle, count);
    return count <= limits.placesPerValue.value;
  });
  look.marks.sort((a, b) => a - b);
  look.isDull = look.hits.length === 0 && !look.hasFragment;
  return look;
}
