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
  const texts = LEADS.map((lead) => digitsAfter(lead, bytes));
  last = { value, texts };
  return texts;
}

let last: { value: string; texts: readonly string[] } = { value: '', texts: [] };

const digits = Buffer.from('ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/');

/**
 * Three bytes become four digits, so a value that begins one or two bytes into a group looks otherwise. Only the digits
 * that depend on no neighbour are kept: those with all six bits from the value.
 */
function digitsAfter(lead: number, bytes: Uint8Array): string {
  const written = Buffer.allocUnsafe(lengthInBase64(bytes.length, lead));
  for (let at = 0; at < written.length; at++) written[at] = digitOf(bytes, lead, at);
  return written.toString('latin1');
}

/** How many digits depend on so many bytes alone. */
export function lengthInBase64(bytes: number, lead: number): number {
  return Math.floor((8 * (bytes + lead)) / 6) - skippedAfter(lead);
}

/** One of the digits that depend on no neighbour, by its number. */
export function digitOf(bytes: Uint8Array, lead: number, at: number): number {
  const bit = 6 * (skippedAfter(lead) + at) - 8 * lead;
  const two = ((bytes[bit >> 3] as number) << 8) | (bytes[(bit >> 3) + 1] ?? 0);
  return digits[(two >> (10 - (bit & 7))) & 63] as number;
}

/** Digits with bits of the bytes before. */
function skippedAfter(lead: number): number {
  return Math.ceil((8 * lead) / 6);
}
