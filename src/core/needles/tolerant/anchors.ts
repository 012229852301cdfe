import { rarityOf } from '../rarity.js';

/** A run of characters that no encoding of texts changes. */
export interface Anchor {
  /** In ASCII. */
  codes: Uint8Array;
  /** The code point of the value that it begins with. */
  index: number;
}

/** Shorter runs are in ordinary text; longer ones find no more. */
const [SHORTEST, LENGTH] = [11, 12];
/** Values of this many characters have an anchor in each half. */
const TWO_ANCHORS = 24;

/** A run of a text that has no longer one. */
const SHORTEST_OF_PROSE = 4;

/** One or two of a value, by its code points; none if it has none. */
export function anchorsOf(characters: readonly string[]): Anchor[] {
  const codes = asciiCodes(characters);
  const half = codes.length >> 1;
  if (codes.length >= TWO_ANCHORS) {
    const [first, second] = [rarest(characters, codes, 0, half), rarest(characters, codes, half, codes.length)];
    if (first && second) return [first, second];
  }
  const whole = rarest(characters, codes, 0, codes.length);
  return whole ? [whole] : [];
}

/** The rarest run of a value, by its code points, that no escape of code or of pages changes: prose has spaces instead of long runs. */
export function shortAnchorOf(characters: readonly string[]): Anchor | undefined {
  return bestOf(characters, asciiCodes(characters), 0, characters.length, UNESCAPED, SHORTEST_OF_PROSE);
}

/** 0 for a character that is not ASCII. */
function asciiCodes(characters: readonly string[]): Uint8Array {
  const codes = new Uint8Array(characters.length);
  for (let at = 0; at < codes.length; at++) {
    const code = (characters[at] as string).charCodeAt(0);
    codes[at] = code < 0x80 ? code : 0;
  }
  return codes;
}

/** Letters and digits, the characters that URLs never escape (RFC 3986, 2.3), and those that code and pages never do. */
const [LETTER_OR_DIGIT, UNRESERVED, UNESCAPED] = [1, 2, 4];
const kinds = new Uint8Array(0x80);
for (const letter of 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789')
  kinds[letter.charCodeAt(0)] = LETTER_OR_DIGIT | UNRESERVED | UNESCAPED;
for (const mark of '._~-') kinds[mark.charCodeAt(0)] = UNRESERVED | UNESCAPED;
for (const mark of ' ,;:!?') kinds[mark.charCodeAt(0)] = UNESCAPED;

/** The rarest run of letters and digits, or with the characters that URLs never escape. */
function rarest(characters: readonly string[], codes: Uint8Array, from: number, to: number): Anchor | undefined {
  return bestOf(characters, codes, from, to, LETTER_OR_DIGIT) ?? bestOf(characters, codes, from, to, UNRESERVED);
}

function bestOf(
  characters: readonly string[],
  codes: Uint8Array,
  from: number,
  to: number,
  kind: number,
  shortest = SHORTEST,
): Anchor | undefined {
  let [best, length, rarity] = [-1, 0, -1];
  for (let start = from; start < to; ) {
    let end = start;
    while (end < to && (kinds[codes[end] as number] as number) & kind) end++;
    // The last letter may be one with the accent that follows it.
    const isAccented = end < codes.length && codes[end] === 0 && /^\p{M}/u.test(characters[end] as string);
    const last = isAccented ? end - 1 : end;
    const possible = Math.min(LENGTH, last - start);
    for (let at = start; possible >= shortest && at + possible <= last; at++) {
      const here = rarityBetween(codes, at, at + possible);
      if (here > rarity) [best, length, rarity] = [at, possible, here];
    }
    start = end + 1;
  }
  return best < 0 ? undefined : { codes: codes.subarray(best, best + length), index: best };
}

function rarityBetween(bytes: Uint8Array, from: number, to: number): number {
  let sum = 0;
  for (let at = from; at + 4 <= to; at += 4) sum += rarityOf(bytes, at);
  return sum;
}
