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

/**
 * Three bytes become four characters, so a value that begins one or two bytes into a group looks otherwise. Only the
 * characters that depend on no neighbour are kept: those with all six bits from the value.
 */
export function alignments(value: string): readonly string[] {
  // Several encodings ask for the same value, one after the other.
  if (last.value === value) return last.texts;
  const texts = zeros.map((lead) => {
    const bytes = Buffer.from(lead + value);
    return bytes.toString('base64').slice(Math.ceil((lead.length * 8) / 6), Math.floor((bytes.length * 8) / 6));
  });
  last = { value, texts };
  return texts;
}

let last: { value: string; texts: readonly string[] } = { value: '', texts: [] };

/** What comes before the value in each alignment. */
const zeros = ['', '\0', '\0\0'];
