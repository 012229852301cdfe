import { wholeForms } from '../inspect/hits.js';
import type { Needle } from '../needles/index.js';
import { findAll, type Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import { Beginnings } from './beginnings.js';

/** A stretch of bytes. */
export interface Range {
  start: number;
  end: number;
}

/**
 * Values that are found as `inspect` finds them: by an anchor, and compared outward from it in any mixture of encodings. Long
 * parts of a random value count too.
 */
export class AnchoredValues {
  /** The most bytes of a value in a text. */
  readonly longest: number;
  readonly #matcher: Matcher;
  readonly #beginnings: Beginnings;

  /** @param needles forms of anchors */
  constructor(
    readonly needles: readonly Needle<unknown>[],
    chunkSize: number,
  ) {
    this.#matcher = matcherFor(
      needles.map(({ bytes }) => bytes),
      chunkSize,
    );
    const values = new Set(needles.flatMap(({ anchor }) => anchor?.value ?? []));
    this.longest = Math.max(...[...values].map(({ reach }) => reach));
    this.#beginnings = new Beginnings([...values].flatMap((value) => value.writings));
  }

  rangesIn(text: Buffer): Range[] {
    return wholeForms(findAll(this.#matcher, text), this.needles, (from, to) => text.subarray(from, to));
  }

  /** The first offset from which on the text could be the beginning of a value. */
  possibleStart(text: Buffer): number {
    const from = Math.max(0, text.length - this.longest);
    return from + this.#beginnings.in(text.toString('latin1', from));
  }
}
