import type { Mark } from '../search/marks.js';
import type { Runs } from '../search/runs.js';
import { tokenShapes } from '../tokens/shapes.js';

const FOUR = 4;

/** Beginnings of tokens with which words begin too. The rest of such a token looks random, which is enough to find it. */
const asInWords = new Set(['secr', 'api-', 'sdk-', 'mob-', 'dapi', 'pul-', 'pat-', 'duff', 'ruby']);

/** Longer marks are byte strings of their own; for shorter ones the search would have to look at more places. */
export const SHORTEST_MARK = 10;

/** Marks of a kind for texts that are long enough. */
export function marksFor(kind: string, texts: readonly string[]): Mark[] {
  return texts.filter(({ length }) => length >= SHORTEST_MARK).map((text) => ({ kind, bytes: Buffer.from(text) }));
}

/** A shorter mark with the characters that follow it: letters, and those of the first key in the header of a web token. */
const longer: Readonly<Record<string, string>> = {
  hf_: 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz',
  eyJ: '0hijlpqr',
};

/**
 * The runs of characters in which tokens are: those that begin as some token does, and those that look random. Tokens with other
 * marks are found by the random text after them.
 */
export const tokenRuns: Runs = {
  marks: [...new Set(tokenShapes.flatMap(({ marks }) => marks.flatMap(beginnings)))],
};

function beginnings(mark: string): string[] {
  if (mark.length < FOUR) return [...(longer[mark] ?? '')].map((next) => mark + next);
  const four = mark.slice(0, FOUR);
  return mark.length < SHORTEST_MARK && /^[\w+/-]+$/.test(mark) && !asInWords.has(four) ? [four] : [];
}
