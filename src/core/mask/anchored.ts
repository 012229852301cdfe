import { wholeForms } from '../inspect/hits.js';
import type { AnchoredNeedles } from '../needles/needle-set.js';
import { findAll, type Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import type { Range } from '../text/ranges.js';
import { Beginnings } from './beginnings.js';

/**
 * Comparisons of a value with a text that may fail. A text with more places that look like the value is made of a few repeated
 * characters, as the value is: all such places are masked, because to mask too much is safe.
 */
const MOST_VAIN = 25;

/**
 * Values that are found as `inspect` finds them: by an anchor, and compared outward from it in any mixture of encodings. Long
 * parts of a random value count too.
 */
export class AnchoredValues {
  /** The most bytes of a value in a text. */
  readonly longest: number;
  readonly #matcher: Matcher;
  readonly #beginnings: Beginnings;

  constructor(
    readonly needles: AnchoredNeedles<unknown>,
    chunkSize: number,
  ) {
    this.#matcher = matcherFor(needles.strings, chunkSize);
    const { values } = needles;
    this.longest = values.reduce((most, { reach }) => Math.max(most, reach), 0);
    this.#beginnings = new Beginnings(values.flatMap((value) => value.writings));
  }

  rangesIn(text: Buffer): Range[] {
    return wholeForms(findAll(this.#matcher, text), this.needles, (from, to) => text.subarray(from, to), MOST_VAIN);
  }

  /** The first offset from which on the text could be the beginning of a value. */
  possibleStart(text: Buffer): number {
    const from = Math.max(0, text.length - this.longest);
    return from + this.#beginnings.in(text.toString('latin1', from));
  }
}
