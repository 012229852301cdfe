import { digitsAfter, digitsForUrls, LEADS } from '../encodings/base64.js';
import { rarityOf } from '../rarity.js';

/** How the bytes around a form of an anchor are read; each step is an encoding, the outer one first. */
export type Recoding =
  | { kind: 'text' }
  | { kind: 'base64'; leads: readonly number[]; utf16?: true }
  | { kind: 'hex' }
  | { kind: 'utf-16' }
  | { kind: 'char-codes' };

/** A byte string that shows where a value may be. */
export interface AnchorForm {
  bytes: Uint8Array;
  recoding: Recoding;
  /** Which character (code point) of the value it begins with. */
  index: number;
}

/** A run of characters that no encoding of texts changes. */
interface Anchor {
  /** In ASCII. */
  codes: Uint8Array;
  /** The code point of the value that it begins with. */
  index: number;
}

/** Shorter runs are in ordinary text; longer ones find no more. */
const [SHORTEST, LENGTH] = [11, 12];
/** Values of this many characters have an anchor in each half. */
const TWO_ANCHORS = 24;
/** Characters of an anchor that is escaped one by one. */
const ESCAPED = 4;

/**
 * The forms to search for, so that a value is found wherever it is and however texts encode it: its anchors as they are, in base64,
 * hexadecimal, UTF-16 and lists of numbers, and escaped character by character.
 *
 * Hundreds of values have ten thousands of forms, so they are written byte by byte.
 * @param isThorough whether to look for encodings that only a mistake or an attempt to hide a value produces
 * @returns undefined if the value has no anchor
 */
export function anchorForms(characters: readonly string[], isThorough: boolean): AnchorForm[] | undefined {
  const [first, second] = anchorsOf(characters);
  if (!first) return undefined;
  const forms: AnchorForm[] = [];
  addUsual(forms, first);
  if (isThorough) addHidden(forms, first);
  if (second) addHalf(forms, second);
  return forms;
}

function anchorsOf(characters: readonly string[]): Anchor[] {
  const codes = asciiCodes(characters);
  const half = codes.length >> 1;
  if (codes.length >= TWO_ANCHORS) {
    const [first, second] = [rarest(characters, codes, 0, half), rarest(characters, codes, half, codes.length)];
    if (first && second) return [first, second];
  }
  const whole = rarest(characters, codes, 0, codes.length);
  return whole ? [whole] : [];
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

/** Letters and digits, and the characters that URLs never escape (RFC 3986, 2.3). */
const [LETTER_OR_DIGIT, UNRESERVED] = [1, 2];
const kinds = new Uint8Array(0x80);
for (const letter of 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789')
  kinds[letter.charCodeAt(0)] = LETTER_OR_DIGIT | UNRESERVED;
for (const mark of '._~-') kinds[mark.charCodeAt(0)] = UNRESERVED;

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
): Anchor | undefined {
  let [best, length, rarity] = [-1, 0, -1];
  for (let start = from; start < to; ) {
    let end = start;
    while (end < to && (kinds[codes[end] as number] as number) & kind) end++;
    // The last letter may be one with the accent that follows it.
    const isAccented = end < codes.length && codes[end] === 0 && /^\p{M}/u.test(characters[end] as string);
    const last = isAccented ? end - 1 : end;
    const possible = Math.min(LENGTH, last - start);
    for (let at = start; possible >= SHORTEST && at + possible <= last; at++) {
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

const text: Recoding = { kind: 'text' };
const hex: Recoding = { kind: 'hex' };
const utf16: Recoding = { kind: 'utf-16' };
const charCodes: Recoding = { kind: 'char-codes' };
const base64 = LEADS.map((lead): Recoding => ({ kind: 'base64', leads: [lead] }));
/** By the lead of the inner step, and of the outer one. */
const twice = LEADS.map((inner) => LEADS.map((outer): Recoding => ({ kind: 'base64', leads: [outer, inner] })));
const base64OfUtf16 = LEADS.map((lead): Recoding => ({ kind: 'base64', leads: [lead], utf16: true }));

function addUsual(forms: AnchorForm[], anchor: Anchor): void {
  addHalf(forms, anchor);
  const { codes, index } = anchor;
  const small = inHex(codes, hexDigits);
  const large = inHex(codes, largeHexDigits);
  forms.push({ bytes: small, recoding: hex, index });
  if (!small.equals(large)) forms.push({ bytes: large, recoding: hex, index });
  forms.push({ bytes: withZeros(codes), recoding: utf16, index });
  const numbers = codes.subarray(0, ESCAPED + 2);
  for (const comma of [',', ', ']) forms.push({ bytes: ascii(numbers.join(comma)), recoding: charCodes, index });
}

/** Half of a value is what somebody copies or cuts, as it is or in base64. */
function addHalf(forms: AnchorForm[], { codes, index }: Anchor): void {
  forms.push({ bytes: codes, recoding: text, index });
  for (const lead of LEADS)
    for (const bytes of inBase64(codes, lead)) forms.push({ bytes, recoding: base64[lead] as Recoding, index });
}

function addHidden(forms: AnchorForm[], { codes, index }: Anchor): void {
  addEscaped(forms, codes, index);
  for (const inner of LEADS)
    for (const once of inBase64(codes, inner))
      for (const outer of LEADS)
        for (const bytes of inBase64(once, outer))
          forms.push({ bytes, recoding: twice[inner]?.[outer] as Recoding, index });
  const wide = withZeros(codes);
  for (const lead of LEADS)
    for (const bytes of inBase64(wide, lead)) forms.push({ bytes, recoding: base64OfUtf16[lead] as Recoding, index });
}

const hexDigits = ascii('0123456789abcdef');
const largeHexDigits = ascii('0123456789ABCDEF');

function inHex(codes: Uint8Array, digits: Uint8Array): Buffer {
  const bytes = Buffer.allocUnsafe(2 * codes.length);
  for (let at = 0; at < codes.length; at++) {
    const code = codes[at] as number;
    bytes[2 * at] = digits[code >> 4] as number;
    bytes[2 * at + 1] = digits[code & 15] as number;
  }
  return bytes;
}

/** UTF-16 in either byte order, without the zero byte that begins or ends it. */
function withZeros(codes: Uint8Array): Uint8Array {
  const bytes = Buffer.alloc(2 * codes.length - 1);
  for (let at = 0; at < codes.length; at++) bytes[2 * at] = codes[at] as number;
  return bytes;
}

/** In both alphabets where they differ. */
function inBase64(codes: Uint8Array, lead: number): Uint8Array[] {
  const bytes = digitsAfter(lead, codes);
  const others = digitsForUrls(bytes);
  return others ? [bytes, others] : [bytes];
}

/** How a character is escaped. @param code in decimal @param hex two digits of it in hexadecimal */
const escapes: readonly ((hex: string, code: string) => string)[] = [
  (hex) => `\\x${hex}`,
  (hex) => `\\u00${hex}`,
  (hex) => `\\u{${hex}}`,
  (_, code) => `&#${code};`,
  (hex) => `&#x${hex};`,
  (hex) => `%${hex}`,
];

/** Whether a code has no letters in hexadecimal, and so one spelling. */
function hasNoLetters(code: number): boolean {
  return (code & 15) < 10 && code >> 4 < 10;
}

/** Some characters of an anchor, each escaped: those whose codes have no letters if possible, which would have two cases. */
function addEscaped(forms: AnchorForm[], all: Uint8Array, index: number): void {
  const start = startWithoutLetters(all);
  const codes = Array.from(all.subarray(start, start + ESCAPED));
  const small = codes.map((code) => code.toString(16));
  const cases = codes.every(hasNoLetters) ? [small] : [small, small.map((one) => one.toUpperCase())];
  for (const write of escapes) {
    const [one, other] = cases.map((digits) =>
      codes.map((code, at) => write(digits[at] as string, `${code}`)).join(''),
    );
    forms.push({ bytes: ascii(one as string), recoding: text, index: index + start });
    if (other !== undefined && other !== one) forms.push({ bytes: ascii(other), recoding: text, index: index + start });
  }
}

/** Where as many characters as are escaped have no letters in their codes, or 0. */
function startWithoutLetters(codes: Uint8Array): number {
  let run = 0;
  for (let at = 0; at < codes.length; at++) {
    run = hasNoLetters(codes[at] as number) ? run + 1 : 0;
    if (run === ESCAPED) return at + 1 - ESCAPED;
  }
  return 0;
}

function ascii(of: string): Buffer {
  return Buffer.from(of, 'latin1');
}
