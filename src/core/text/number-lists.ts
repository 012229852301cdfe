/** A list of numbers in a text that may be characters, with its place in UTF-16 code units. */
export interface NumberList {
  start: number;
  end: number;
  /** The characters as bytes: of UTF-8, or UTF-16 units where a number needs more than a byte. */
  bytes: Buffer;
}

/** Shorter lists spell no secret. */
const FEWEST = 8;

/** One layout of a number. */
interface Layout {
  list: RegExp;
  number: RegExp;
  base: 10 | 16;
}

function layout(number: string, between: string, base: 10 | 16): Layout {
  return {
    list: new RegExp(`(?<![\\w.])${number}(?:${between}${number}){${FEWEST - 1},}`, 'g'),
    number: new RegExp(number, 'g'),
    base,
  };
}

/**
 * Numbers with commas or white space between them, as code, JSON and printed arrays have them: decimal (`104,117`, padded, one in a
 * line, 41000 as `41e3`), hexadecimal (`0x68, 0x75`), and pairs of digits as Node.js prints a buffer (`68 75`).
 */
const layouts: readonly Layout[] = [
  layout('\\d{1,6}(?:e\\d)?', '[\\s,]+', 10),
  layout('0[xX][\\da-fA-F]{1,6}', '[\\s,]+', 16),
  layout('[\\da-fA-F]{2}', '[\\s,:]+', 16),
];

/** The lists of numbers in a text that may spell something, of each layout. */
export function numberLists(text: string): NumberList[] {
  return layouts.flatMap(({ list, number, base }) =>
    [...text.matchAll(list)].map(({ 0: whole, index }) => {
      const codes = [...whole.matchAll(number)].map(([one]) => (base === 16 ? Number.parseInt(one, 16) : Number(one)));
      return { start: index, end: index + whole.length, bytes: spelled(codes) };
    }),
  );
}

function spelled(codes: readonly number[]): Buffer {
  if (codes.every((code) => code < 0x100)) return Buffer.from(codes);
  return Buffer.from(codes.map((code) => (code <= 0x10ffff ? String.fromCodePoint(code) : '\0')).join(''));
}
