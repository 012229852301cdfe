import type { Encoding } from '../encoding.js';

/** Base64 (RFC 4648, section 4) and its URL-safe alphabet (section 5), wherever the value begins in the encoded text. */
export const base64: Encoding = {
  name: 'base64',
  example: 'w6QiL',
  encode: alignments,
};

export const base64url: Encoding = {
  name: 'base64url',
  example: 'w6QiL',
  encode: (value) => alignments(value).map((text) => text.replaceAll('+', '-').replaceAll('/', '_')),
};

/** The shortest line that wraps encoded text (RFC 7468 has 64, MIME 76). */
const SHORTEST_LINE = 64;

/** Shorter encoded text occurs by chance. */
const SHORTEST_PIECE = 10;

/** The name in findings of base64 that is broken into lines. */
export const BASE64_LINES = 'base64-lines';

/**
 * Base64 in lines. A line break may be anywhere in the value, but only one within the length of the shortest line, so one of
 * two halves of that length has no break.
 * @param text of one alignment
 */
export function linePieces(text: string): string[] {
  const half = Math.floor(Math.min(text.length, SHORTEST_LINE) / 2);
  return half < SHORTEST_PIECE ? [] : [text.slice(0, half), text.slice(half, 2 * half)];
}

/** How many bytes may precede the value in its group of three. */
export const LEADS = [0, 1, 2] as const;

/** The value in each alignment. */
export function alignments(value: string): readonly string[] {
  // Several encodings ask for the same value, one after the other.
  if (last.value === value) return last.texts;
  const bytes = Buffer.from(value);
  const texts = LEADS.map((lead) => digitsAfter(lead, bytes).toString('latin1'));
  last = { value, texts };
  return texts;
}

let last: { value: string; texts: readonly string[] } = { value: '', texts: [] };

const digits = Buffer.from('ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/');
const [PLUS, SLASH, DASH, UNDERSCORE] = [0x2b, 0x2f, 0x2d, 0x5f];

/**
 * Three bytes become four digits, so a value that begins one or two bytes into a group looks otherwise. Only the digits
 * that depend on no neighbour are kept: those with all six bits from the value.
 */
export function digitsAfter(lead: number, bytes: Uint8Array): Buffer {
  const first = Math.ceil((8 * lead) / 6);
  const written = Buffer.allocUnsafe(Math.floor((8 * (bytes.length + lead)) / 6) - first);
  for (let at = 0; at < written.length; at++) {
    const bit = 6 * (first + at) - 8 * lead;
    const two = ((bytes[bit >> 3] as number) << 8) | (bytes[(bit >> 3) + 1] ?? 0);
    written[at] = digits[(two >> (10 - (bit & 7))) & 63] as number;
  }
  return written;
}

/** The same digits in the alphabet for URLs; undefined if they do not differ. */
export function digitsForUrls(bytes: Uint8Array): Uint8Array | undefined {
  if (!bytes.includes(PLUS) && !bytes.includes(SLASH)) return undefined;
  return bytes.map((byte) => (byte === PLUS ? DASH : byte === SLASH ? UNDERSCORE : byte));
}
