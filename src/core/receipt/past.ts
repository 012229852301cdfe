import { Secret } from '../secrets/secret.js';
import { fingerprint, type Receipt } from './receipt.js';

/** Earlier values of a variable, as far as receipts know them: the fingerprint of each, with the time of its newest build. */
export type PastValues = ReadonlyMap<string, string>;

/** @param receipts of one bundle, the newest first @param now the current value */
export function pastValues(receipts: readonly Receipt[], name: string, now: Secret, key: Uint8Array): PastValues {
  const current = fingerprint(key, name, now);
  const past = new Map<string, string>();
  for (const { predicate } of receipts)
    for (const value of predicate.values)
      if (value.name === name && value.fingerprint !== current && !past.has(value.fingerprint))
        past.set(value.fingerprint, predicate.builtAt);
  return past;
}

/** A past value in a text, by offsets in UTF-16 units. */
export interface PastPlace {
  builtAt: string;
  text: string;
  start: number;
}

/** Shorter strings are ordinary words. */
const SHORTEST = 6;
/** More strings than a bundle has that ships. */
const MOST_STRINGS = 200_000;

/**
 * Where a text has a past value of a variable: as a string, or at the beginning of one, where code appends a path. Only
 * fingerprints are known of it, so strings are compared by theirs.
 */
export function findPastValue(text: string, name: string, past: PastValues, key: Uint8Array): PastPlace | undefined {
  const tried = new Set<string>();
  for (const { 0: quoted, index } of text.matchAll(/(["'`])(?:\\.|(?!\1)[^\\\n])*\1/g)) {
    for (const candidate of beginningsOf(quoted.slice(1, -1))) {
      if (candidate.length < SHORTEST || tried.has(candidate)) continue;
      if (tried.size >= MOST_STRINGS) return undefined;
      tried.add(candidate);
      const builtAt = past.get(fingerprint(key, name, new Secret(candidate)));
      if (builtAt !== undefined) return { builtAt, text: candidate, start: index + 1 };
    }
  }
  return undefined;
}

/** A string, and its beginnings up to a separator or a template's expression. */
function beginningsOf(text: string): string[] {
  const cuts = [...text.matchAll(/[/?#&:$]/g)].map(({ index }) => index);
  return [text, ...cuts.map((at) => text.slice(0, at))];
}
