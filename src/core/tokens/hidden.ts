import type { Range } from '../text/ranges.js';
import { tokensIn } from './in-text.js';
import { isProbablySecret, LONGEST_SECRET } from './random.js';
import { looksRandom } from './strength.js';

/** The name before a secret, which says what it is. */
const BEFORE = 80;

/**
 * Finds undeclared secrets in a piece of text, which must not be shown: tokens, keys beside a name that says so, and what
 * the piece's edges may have cut off from one.
 */
export function unknownSecretsIn(text: string): Range[] {
  const tokens = tokensIn(text).filter(({ shape }) => shape.kind === 'secret');
  return [...tokens, ...runsIn(text), ...keyWithoutEnd(text)];
}

function runsIn(text: string): Range[] {
  return [...text.matchAll(/[\w+/-]{20,}/g)].flatMap(({ 0: run, index: start }) => {
    const end = start + run.length;
    const isCut = (start === 0 || end === text.length) && looksRandom(run.slice(0, LONGEST_SECRET));
    const isSecret = isCut || isProbablySecret(run, text.slice(Math.max(0, start - BEFORE), start));
    return isSecret ? [{ start, end }] : [];
  });
}

/** A private key that goes on after the piece. */
function keyWithoutEnd(text: string): Range[] {
  const start = text.search(/-----BEGIN ([A-Z]+ )*PRIVATE KEY/);
  return start < 0 || text.includes('-----END', start) ? [] : [{ start, end: text.length }];
}
