import { countAtMost } from './sorted.js';

/** A stretch of a text or of bytes; whoever makes one says in what units. */
export interface Range {
  start: number;
  end: number;
}

/** Tells whether a place is in one of the ranges. */
export function isIn(ranges: readonly Range[], at: number): boolean {
  return ranges.some(({ start, end }) => start <= at && at < end);
}

/**
 * Ranges in their order, overlapping ones as one.
 * @param touching whether ranges that only touch become one too
 */
export function joinedRanges(ranges: readonly Range[], touching: boolean): Range[] {
  const joined: Range[] = [];
  for (const { start, end } of ranges.toSorted((a, b) => a.start - b.start)) {
    const last = joined.at(-1);
    if (last && (start < last.end || (touching && start === last.end))) last.end = Math.max(last.end, end);
    else joined.push({ start, end });
  }
  return joined;
}

/** Ranges that are asked for many places: by binary search. */
export class JoinedRanges {
  readonly #ranges: readonly Range[];
  readonly #starts: readonly number[];

  constructor(ranges: readonly Range[]) {
    this.#ranges = joinedRanges(ranges, true);
    this.#starts = this.#ranges.map(({ start }) => start);
  }

  has(at: number): boolean {
    const range = this.#ranges[countAtMost(this.#starts, at) - 1];
    return range !== undefined && at < range.end;
  }
}
