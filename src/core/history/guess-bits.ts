import { pairRarity } from '../needles/rarity.js';
import { groupBy } from '../text/group-by.js';

/** Values and windows of fewer bits are not kept: whoever has the project's key can test 2^70 guesses only at great cost. */
export const FEWEST_BITS = 70;

/** Letter runs this long are compared with the letters of words. */
const SHORTEST_WORD = 4;
/** Average bits of a letter after another one, in build output: words have 3 to 5, random letters 7. */
const BITS_IN_WORDS = 5.5;
/** A guesser tries words, so a letter of a word is worth this much. */
const BITS_OF_WORD_LETTER = 1.5;
/** A character that is so many times as frequent as others in random text is guessed first. */
const FEW = 3;
/** A separator, or a character that continues a sequence or repeats one. */
const BITS_OF_EXPECTED = 1;

/**
 * Bits that a guesser must find out for each byte of a value: a careful estimate, which counts words, separators, repetitions and
 * sequences for little. The rest counts by the alphabet of the value's random text.
 */
export function guessBits(value: Uint8Array): Float64Array {
  const text = Buffer.from(value.buffer, value.byteOffset, value.length).toString('latin1');
  const bits = new Float64Array(value.length).fill(-1);
  for (const { 0: run, index } of text.matchAll(/[A-Za-z]+/g))
    if (run.length >= SHORTEST_WORD && isWord(run)) bits.fill(BITS_OF_WORD_LETTER, index, index + run.length);
  const random = [...text].filter((_, at) => bits[at] === -1 && /[A-Za-z0-9]/.test(text[at] as string)).join('');
  const ofAlphabet = Math.log2(alphabetOf(random));
  const usual = Math.max(FEW, (FEW * random.length) / alphabetOf(random));
  for (let at = 0; at < bits.length; at++) {
    if (isExpected(text, at))
      bits[at] = Math.min(BITS_OF_EXPECTED, bits[at] === -1 ? BITS_OF_EXPECTED : (bits[at] as number));
    else if (bits[at] === -1)
      bits[at] = /[A-Za-z0-9]/.test(text[at] as string) ? ofAlphabet : bitsOfSign(text, at, ofAlphabet);
  }
  const places = [...bits.keys()].filter((at) => bits[at] === ofAlphabet);
  for (const same of groupBy(places, (at) => text[at] as string).values())
    if (same.length > usual) for (const at of same) bits[at] = Math.log2(places.length / same.length);
  return bits;
}

/** Bits of a whole value. */
export function strengthInBits(value: string): number {
  return guessBits(Buffer.from(value)).reduce((sum, bits) => sum + bits, 0);
}

function isWord(run: string): boolean {
  const small = run.toLowerCase();
  let sum = 0;
  for (let at = 1; at < small.length; at++) sum += pairRarity(small.charCodeAt(at - 1), small.charCodeAt(at));
  return sum / (small.length - 1) < BITS_IN_WORDS;
}

/** Size of the smallest usual alphabet that random text is from. */
function alphabetOf(text: string): number {
  if (/^[0-9a-f]*$/.test(text) || /^[0-9A-F]*$/.test(text)) return /^\d*$/.test(text) ? 10 : 16;
  const [digits, lower, upper] = [/\d/, /[a-z]/, /[A-Z]/].map((kind) => kind.test(text));
  return (digits ? 10 : 0) + (lower ? 26 : 0) + (upper ? 26 : 0);
}

/** A sign between two other signs or next to random text may be one of many; between words it separates. */
function bitsOfSign(text: string, at: number, ofAlphabet: number): number {
  const hasNeighbour = /[^A-Za-z0-9\s]/.test(`${text[at - 1] ?? ''}${text[at + 1] ?? ''}`);
  const isUsual = /[-_./:=@?&\s]/.test(text[at] as string);
  return hasNeighbour && !isUsual ? ofAlphabet : BITS_OF_EXPECTED;
}

/** Tells whether a character follows from those before it: a sequence, a repetition of one, or of three and more. */
function isExpected(text: string, at: number): boolean {
  const [code, before, first] = [text.charCodeAt(at), text.charCodeAt(at - 1), text.charCodeAt(at - 2)];
  const step = code - before;
  if (Math.abs(step) <= 1 && before - first === step) return true;
  return at >= 3 && text.slice(0, at).includes(text.slice(at - 3, at + 1));
}
