import damerauLevenshtein from 'damerau-levenshtein';

/**
 * Edit distance with swaps of neighbours counted once (optimal string alignment; Damerau, CACM 7(3), 1964).
 * Compares in lower case, as a slip of the shift key is the cheapest of all.
 */
export function editDistance(left: string, right: string): number {
  return damerauLevenshtein(left.toLowerCase(), right.toLowerCase()).steps;
}

/** The known names most similar to the given one, at most three, the best first. */
export function nearest(given: string, known: Iterable<string>): string[] {
  const limit = Math.max(2, Math.floor(given.length / 3));
  return [...new Set(known)]
    .map((name) => ({ name, distance: distanceOf(given, name) }))
    .filter(({ distance }) => distance <= limit)
    .sort((a, b) => a.distance - b.distance || a.name.localeCompare(b.name))
    .slice(0, 3)
    .map(({ name }) => name);
}

/**
 * Tells whether two names differ by a slip of the keyboard: one word with a letter more, fewer, changed or swapped, or a missing
 * `_`. Stricter than {@link nearest}: DB_HOST and DB_PORT are two names, as are KEY_1 and KEY_2.
 */
export function isSlip(left: string, right: string): boolean {
  const [a, b] = [left.toUpperCase(), right.toUpperCase()];
  if (left === right) return false;
  if (a.replaceAll('_', '') === b.replaceAll('_', '')) return true;
  const [words, others] = [a.split('_'), b.split('_')];
  const differing = words.flatMap((word, index) =>
    word === others[index] ? [] : [[word, others[index] ?? ''] as const],
  );
  const [pair, ...more] = differing;
  if (words.length !== others.length || !pair || more.length > 0) return false;
  const withoutDigits = pair.map((word) => word.replace(/\d/g, ''));
  const isNumbered = pair.some((word) => /\d/.test(word)) && withoutDigits[0] === withoutDigits[1];
  const longest = Math.max(pair[0].length, pair[1].length);
  // A word of three letters counts only if letters are swapped: API and APP are two words.
  const isLong = longest >= 4 || (longest === 3 && sameLetters(...pair));
  return !isNumbered && isLong && editDistance(pair[0], pair[1]) <= Math.max(1, Math.floor(longest / 4));
}

function sameLetters(a: string, b: string): boolean {
  return [...a].sort().join('') === [...b].sort().join('');
}

/** A shortened name ("prod") is as near as a slip of one letter, one with all its words (FERRY_URL) as one of two. */
function distanceOf(given: string, name: string): number {
  const [a, b] = [given.toLowerCase(), name.toLowerCase()];
  if (a.length >= 3 && b.startsWith(a)) return 1;
  const words = a.split(/[_.-]+/);
  const hasAll = words.length > 1 && words.every((word) => b.split(/[_.-]+/).includes(word));
  return Math.min(hasAll ? 2 : Number.POSITIVE_INFINITY, editDistance(given, name));
}

/** "did you mean X or Y?", or all known names if none is similar. */
export function suggest(given: string, known: Iterable<string>): string {
  const names = [...known];
  return suggestion(nearest(given, names), names);
}

/** As {@link suggest}, from the similar names and all known ones. */
export function suggestion(near: readonly string[], known: readonly string[]): string {
  if (near.length > 0) return `did you mean ${joinWords(near, 'or')}?`;
  return known.length > 0 ? `known: ${known.join(', ')}` : 'there are none';
}

/**
 * A word of the command line for an error message, in quotes; undefined if it may be a misplaced value. Only plain lower-case
 * words and misspelt names are safe to repeat.
 */
export function echoed(given: string, known: Iterable<string>): string | undefined {
  const isHarmless = /^([a-z]+([-_.][a-z]+)*|-?\d{1,4}(\.\d{1,3})?)$/.test(given) && given.length <= 32;
  return isHarmless || nearest(given, known).length > 0 ? `"${given}"` : undefined;
}

/** `a, b and c`. */
export function joinWords(words: readonly string[], last: 'and' | 'or' = 'and'): string {
  if (words.length <= 1) return words.join('');
  return `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`;
}

/** The first words of a list: `A, B, C and 4 more`. One more word takes the place of a count. */
export function someWords(words: readonly string[], most: number): string {
  const more = words.length - most;
  return joinWords(more > 1 ? [...words.slice(0, most), `${more} more`] : words);
}

/** The first few of a long list: `A, B and 9 more (--format json lists all)`. */
export function firstWords(words: readonly string[], most = 5): string {
  if (words.length <= most + 1) return joinWords(words);
  return `${words.slice(0, most).join(', ')} and ${words.length - most} more (--format json lists all)`;
}
