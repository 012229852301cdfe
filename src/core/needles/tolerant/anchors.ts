import { alignments } from '../encodings/base64.js';
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
  /** One character per byte. */
  bytes: string;
  recoding: Recoding;
  /** Which character (code point) of the value it begins with. */
  index: number;
}

/** A run of characters that no encoding of texts changes. */
interface Anchor {
  text: string;
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
 * @param isThorough whether to look for encodings that only a mistake or an attempt to hide a value produces
 * @returns undefined if the value has no anchor
 */
export function anchorForms(characters: readonly string[], isThorough: boolean): AnchorForm[] | undefined {
  const [first, second] = anchorsOf(characters);
  if (!first) return undefined;
  const forms = [...usualForms(first), ...(isThorough ? hiddenForms(first) : [])];
  return second ? [...forms, ...formsOfHalf(second)] : forms;
}

function anchorsOf(characters: readonly string[]): Anchor[] {
  const half = characters.length >> 1;
  const parts = characters.length >= TWO_ANCHORS ? [[0, half] as const, [half, characters.length] as const] : [];
  const inHalves = parts.flatMap(([from, to]) => rarest(characters, from, to) ?? []);
  if (inHalves.length === 2) return inHalves;
  const whole = rarest(characters, 0, characters.length);
  return whole ? [whole] : [];
}

/** The rarest run of letters and digits, or with the characters that URLs never escape. */
function rarest(characters: readonly string[], from: number, to: number): Anchor | undefined {
  return bestOf(characters, from, to, isLetterOrDigit) ?? bestOf(characters, from, to, isUnreserved);
}

function isLetterOrDigit(character: string): boolean {
  return /^[A-Za-z0-9]$/.test(character);
}

function isUnreserved(character: string): boolean {
  return /^[A-Za-z0-9._~-]$/.test(character);
}

function bestOf(
  characters: readonly string[],
  from: number,
  to: number,
  isAllowed: (character: string) => boolean,
): Anchor | undefined {
  let best: { start: number; length: number; rarity: number } | undefined;
  for (let start = from; start < to; ) {
    let end = start;
    while (end < to && isAllowed(characters[end] as string)) end++;
    // The last letter may be one with the accent that follows it.
    const last = /^\p{M}/u.test(characters[end] ?? '') ? end - 1 : end;
    const length = Math.min(LENGTH, last - start);
    if (length >= SHORTEST) {
      const bytes = Buffer.from(characters.slice(start, last).join(''), 'latin1');
      for (let at = 0; at + length <= bytes.length; at++) {
        const rarity = rarityBetween(bytes, at, at + length);
        if (!best || rarity > best.rarity) best = { start: start + at, length, rarity };
      }
    }
    start = end + 1;
  }
  return best && { text: characters.slice(best.start, best.start + best.length).join(''), index: best.start };
}

function rarityBetween(bytes: Uint8Array, from: number, to: number): number {
  let sum = 0;
  for (let at = from; at + 4 <= to; at += 4) sum += rarityOf(bytes, at);
  return sum;
}

function usualForms(anchor: Anchor): AnchorForm[] {
  const { text, index } = anchor;
  const hex = Buffer.from(text, 'latin1').toString('hex');
  const codes = Array.from(text, (character) => character.charCodeAt(0));
  return [
    ...formsOfHalf(anchor),
    ...distinct([hex, hex.toUpperCase()]).map((bytes) => ({ bytes, recoding: { kind: 'hex' } as const, index })),
    { bytes: withZeros(text), recoding: { kind: 'utf-16' }, index },
    ...[',', ', '].map((comma) => ({
      bytes: codes.slice(0, ESCAPED + 2).join(comma),
      recoding: { kind: 'char-codes' } as const,
      index,
    })),
  ];
}

/** Half of a value is what somebody copies or cuts, as it is or in base64. */
function formsOfHalf({ text, index }: Anchor): AnchorForm[] {
  return [
    { bytes: text, recoding: { kind: 'text' }, index },
    ...inBase64(text, []).map(({ bytes, leads }) => ({ bytes, recoding: { kind: 'base64', leads } as const, index })),
  ];
}

/** UTF-16 in either byte order, without the zero byte that begins or ends it. */
function withZeros(text: string): string {
  return Array.from(text).join('\0');
}

function hiddenForms({ text, index }: Anchor): AnchorForm[] {
  const twice = inBase64(text, []).flatMap(({ bytes, leads }) => inBase64(bytes, leads));
  const utf16 = inBase64(withZeros(text), []);
  return [
    ...escapedForms(text, index),
    ...twice.map(({ bytes, leads }) => ({ bytes, recoding: { kind: 'base64', leads } as const, index })),
    ...utf16.map(({ bytes, leads }) => ({ bytes, recoding: { kind: 'base64', leads, utf16: true } as const, index })),
  ];
}

/** Base64 of a text in each alignment, in both alphabets where they differ. @param leads of the steps that follow */
function inBase64(text: string, leads: readonly number[]): { bytes: string; leads: number[] }[] {
  const forms: { bytes: string; leads: number[] }[] = [];
  for (const [lead, plain] of alignments(text).entries()) {
    forms.push({ bytes: plain, leads: [lead, ...leads] });
    if (/[+/]/.test(plain))
      forms.push({ bytes: plain.replaceAll('+', '-').replaceAll('/', '_'), leads: [lead, ...leads] });
  }
  return forms;
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

/** Characters whose hexadecimal codes contain no letters, and so have one spelling. */
const withoutLetters = new RegExp(`[0-9@-IP-Y\`-ip-y]{${ESCAPED}}`);

/** Some characters of an anchor, each escaped: those whose codes have no letters if possible, which would have two cases. */
function escapedForms(text: string, index: number): AnchorForm[] {
  const start = Math.max(0, text.search(withoutLetters));
  const codes = Array.from(text.slice(start, start + ESCAPED), (character) => character.charCodeAt(0));
  const small = codes.map((code) => code.toString(16));
  const large = small.map((hex) => hex.toUpperCase());
  const cases = small.join() === large.join() ? [small] : [small, large];
  const forms = escapes.flatMap((write) =>
    cases.map((hex) => codes.map((code, at) => write(hex[at] as string, `${code}`)).join('')),
  );
  return distinct(forms).map((bytes) => ({ bytes, recoding: { kind: 'text' }, index: index + start }));
}

function distinct(texts: readonly string[]): string[] {
  return [...new Set(texts)];
}
