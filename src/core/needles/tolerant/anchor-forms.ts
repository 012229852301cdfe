import type { ByteStrings } from '../byte-strings.js';
import { digitOf, LEADS, lengthInBase64 } from '../encodings/base64.js';
import { type Anchor, anchorsOf, shortAnchorOf } from './anchors.js';

/** How the bytes around a form of an anchor are read; each step is an encoding, the outer one first. */
export type Recoding =
  | { kind: 'text' }
  | { kind: 'base64'; leads: readonly number[]; utf16?: true }
  | { kind: 'hex' }
  | { kind: 'utf-16' }
  | { kind: 'char-codes' };

/** A byte string that shows where a value may be. */
export interface AnchorForm {
  recoding: Recoding;
  /** Which character (code point) of the value it begins with. */
  index: number;
}

/** Characters of an anchor that is escaped one by one. */
const ESCAPED = 4;

const TEXT = 0;
const HEX = 1;
const UTF16 = 2;
const CHAR_CODES = 3;
/** The first of those by lead; of base64 in base64, by the lead of the inner step and then of the outer one. */
const BASE64 = 4;
const BASE64_OF_UTF16 = BASE64 + LEADS.length;
const TWICE = BASE64_OF_UTF16 + LEADS.length;

/** How each variant of an anchor is written; the constants above are the indices. */
const recodings: readonly Recoding[] = [
  { kind: 'text' },
  { kind: 'hex' },
  { kind: 'utf-16' },
  { kind: 'char-codes' },
  ...LEADS.map((lead): Recoding => ({ kind: 'base64', leads: [lead] })),
  ...LEADS.map((lead): Recoding => ({ kind: 'base64', leads: [lead], utf16: true })),
  ...LEADS.flatMap((inner) => LEADS.map((outer): Recoding => ({ kind: 'base64', leads: [outer, inner] }))),
];

/** More than the forms of one value need. */
const [ROOM, ROOM_BYTES] = [128, 4096];

/**
 * The forms to search for, so that values are found wherever they are and however texts encode them: their anchors as they are, in
 * base64, hexadecimal, UTF-16 and lists of numbers, and escaped character by character.
 *
 * Hundreds of values have ten thousand forms, so they are written byte by byte, one after the other.
 */
export class AnchorForms {
  #bytes = new Uint8Array(8 * ROOM_BYTES);
  #starts = new Uint32Array(8 * ROOM);
  #recodings = new Uint8Array(8 * ROOM);
  #indexes = new Uint32Array(8 * ROOM);
  #at = 0;
  #count = 0;

  /** How many there are. */
  get length(): number {
    return this.#count;
  }

  get strings(): ByteStrings {
    return { bytes: this.#bytes.subarray(0, this.#at), starts: this.#starts.subarray(0, this.#count + 1) };
  }

  at(form: number): AnchorForm {
    return { recoding: recodings[this.#recodings[form] as number] as Recoding, index: this.#indexes[form] as number };
  }

  /**
   * Adds the forms of a value.
   * @param characters its code points
   * @param isThorough whether to look for encodings that only a mistake or an attempt to hide a value produces
   */
  add(characters: readonly string[], isThorough: boolean): void {
    const [first, second] = anchorsOf(characters);
    if (first) this.#addUsual(first, isThorough);
    if (second) this.#addHalf(second);
  }

  /** Adds a short anchor of a value that has no other one, as it is. @returns whether it has one */
  addShort(characters: readonly string[]): boolean {
    const anchor = shortAnchorOf(characters);
    if (anchor) this.#addPlain(anchor);
    return anchor !== undefined;
  }

  #makeRoom(): void {
    if (this.#at + ROOM_BYTES > this.#bytes.length) this.#bytes = grown(this.#bytes, Uint8Array);
    if (this.#count + ROOM < this.#starts.length) return;
    this.#starts = grown(this.#starts, Uint32Array);
    this.#recodings = grown(this.#recodings, Uint8Array);
    this.#indexes = grown(this.#indexes, Uint32Array);
  }

  #end(recoding: number, index: number): void {
    this.#recodings[this.#count] = recoding;
    this.#indexes[this.#count] = index;
    this.#count++;
    this.#starts[this.#count] = this.#at;
  }

  #addUsual(anchor: Anchor, isThorough: boolean): void {
    const { codes, index } = anchor;
    const first = this.#count;
    this.#addHalf(anchor);
    const end = this.#count;
    this.#addHex(codes, index);
    this.#addWide(codes);
    this.#end(UTF16, index);
    this.#addNumbers(codes, false);
    this.#end(CHAR_CODES, index);
    this.#addNumbers(codes, true);
    this.#end(CHAR_CODES, index);
    if (isThorough) this.#addHidden(anchor, first + 1, end);
  }

  /** Half of a value is what somebody copies or cuts, as it is or in base64. */
  #addHalf(anchor: Anchor): void {
    this.#addPlain(anchor);
    this.#addBase64(anchor.codes, BASE64, anchor.index);
  }

  #addPlain({ codes, index }: Anchor): void {
    this.#makeRoom();
    this.#bytes.set(codes, this.#at);
    this.#at += codes.length;
    this.#end(TEXT, index);
  }

  /** In both letter cases where they differ. */
  #addHex(codes: Uint8Array, index: number): void {
    this.#addHexIn(codes, smallDigits);
    this.#end(HEX, index);
    if (codes.every(hasNoLetters)) return;
    this.#addHexIn(codes, largeDigits);
    this.#end(HEX, index);
  }

  #addHexIn(codes: Uint8Array, digits: Uint8Array): void {
    for (let at = 0; at < codes.length; at++) this.#addTwoDigits(codes[at] as number, digits);
  }

  #addTwoDigits(code: number, digits: Uint8Array): void {
    this.#bytes[this.#at++] = digits[code >> 4] as number;
    this.#bytes[this.#at++] = digits[code & 15] as number;
  }

  /** UTF-16 in either byte order, without the zero byte that begins or ends it. */
  #addWide(codes: Uint8Array): void {
    for (let at = 0; at < codes.length; at++) {
      if (at > 0) this.#bytes[this.#at++] = 0;
      this.#bytes[this.#at++] = codes[at] as number;
    }
  }

  #addNumbers(codes: Uint8Array, isSpaced: boolean): void {
    for (let at = 0; at < Math.min(codes.length, ESCAPED + 2); at++) {
      if (at > 0) this.#bytes[this.#at++] = COMMA;
      if (at > 0 && isSpaced) this.#bytes[this.#at++] = SPACE;
      this.#addNumber(codes[at] as number);
    }
  }

  #addNumber(code: number): void {
    if (code >= 100) this.#bytes[this.#at++] = smallDigits[Math.floor(code / 100)] as number;
    this.#bytes[this.#at++] = smallDigits[Math.floor(code / 10) % 10] as number;
    this.#bytes[this.#at++] = smallDigits[code % 10] as number;
  }

  /** In all alignments, and in both alphabets where they differ. @param recoding the first of those by lead */
  #addBase64(codes: Uint8Array, recoding: number, index: number): void {
    for (const lead of LEADS) {
      const from = this.#at;
      let differs = false;
      for (let at = 0, end = lengthInBase64(codes.length, lead); at < end; at++) {
        const digit = digitOf(codes, lead, at);
        differs ||= digit === PLUS || digit === SLASH;
        this.#bytes[this.#at++] = digit;
      }
      const to = this.#at;
      this.#end(recoding + lead, index);
      if (!differs) continue;
      for (let at = from; at < to; at++) this.#bytes[this.#at++] = forUrls(this.#bytes[at] as number);
      this.#end(recoding + lead, index);
    }
  }

  /** @param first of the forms in base64 @param end after the last of them */
  #addHidden({ codes, index }: Anchor, first: number, end: number): void {
    this.#addEscaped(codes, index);
    for (let form = first; form < end; form++) {
      const once = this.#bytes.subarray(this.#starts[form], this.#starts[form + 1]);
      const lead = (this.#recodings[form] as number) - BASE64;
      this.#addBase64(once, TWICE + lead * LEADS.length, index);
    }
    const from = this.#at;
    this.#addWide(codes);
    const wide = this.#bytes.slice(from, this.#at);
    this.#at = from;
    this.#addBase64(wide, BASE64_OF_UTF16, index);
  }

  /** Some characters of an anchor, each escaped: those whose codes have no letters if possible, which would have two cases. */
  #addEscaped(all: Uint8Array, index: number): void {
    const start = startWithoutLetters(all);
    const codes = all.subarray(start, start + ESCAPED);
    const hasOneCase = codes.every(hasNoLetters);
    for (const { before, isDecimal, after } of escapes)
      for (const digits of isDecimal || hasOneCase ? oneCase : bothCases) {
        for (let at = 0; at < codes.length; at++) {
          this.#addAll(before);
          if (isDecimal) this.#addNumber(codes[at] as number);
          else this.#addTwoDigits(codes[at] as number, digits);
          this.#addAll(after);
        }
        this.#end(TEXT, index + start);
      }
  }

  #addAll(bytes: Uint8Array): void {
    for (let at = 0; at < bytes.length; at++) this.#bytes[this.#at++] = bytes[at] as number;
  }
}

function grown<T extends Uint8Array | Uint32Array>(array: T, type: new (length: number) => T): T {
  const larger = new type(2 * array.length);
  larger.set(array);
  return larger;
}

const smallDigits = Buffer.from('0123456789abcdef');
const largeDigits = Buffer.from('0123456789ABCDEF');
const [oneCase, bothCases] = [[smallDigits], [smallDigits, largeDigits]];
const [COMMA, SPACE, PLUS, SLASH, DASH, UNDERSCORE] = [0x2c, 0x20, 0x2b, 0x2f, 0x2d, 0x5f];

function forUrls(digit: number): number {
  if (digit === PLUS) return DASH;
  return digit === SLASH ? UNDERSCORE : digit;
}

/** Syntax around the number of an escaped character. */
const escapes = (
  [
    ['\\x', ''],
    ['\\u00', ''],
    ['\\u{', '}'],
    ['&#', ';', 'in decimal'],
    ['&#x', ';'],
    ['%', ''],
  ] as const
).map(([before, after, base]) => ({
  before: Buffer.from(before),
  after: Buffer.from(after),
  isDecimal: base !== undefined,
}));

/** Tells whether a code has no letters in hexadecimal, and so one spelling. */
function hasNoLetters(code: number): boolean {
  return (code & 15) < 10 && code >> 4 < 10;
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
