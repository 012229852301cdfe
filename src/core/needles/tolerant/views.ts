import { decodeHTML } from 'entities';
import type { Range } from '../../text/ranges.js';

/** A text of one character per byte, and where each of its bytes came from. */
export interface View {
  text: string;
  /** Where the anchor begins in it. */
  at: number;
  /** The place in the original text where the byte at an offset begins, or after the last byte ends. */
  startOf(offset: number): number;
  /** The place in the original text after the byte before an offset. */
  endOf(offset: number): number;
}

/** The text itself. */
export function asWritten(text: string, { start }: Range): View {
  return { text, at: start, startOf: (offset) => offset, endOf: (offset) => offset };
}

/** A view of a view. */
export function through(outer: View, inner: View): View {
  return {
    text: inner.text,
    at: inner.at,
    startOf: (offset) => outer.startOf(inner.startOf(offset)),
    endOf: (offset) => outer.endOf(inner.endOf(offset)),
  };
}

const BASE64 = /[A-Za-z0-9+/_-]/;

/** Strings between two characters of base64, or in place of an escaped one. Longer ones first. */
const inBase64: readonly [written: string, character: string][] = [
  ...['\\u002b', '\\u002B', '&#x2b;', '&#x2B;', '&#43;', '\\x2b', '\\x2B', '%2b', '%2B'].map(
    (text) => [text, '+'] as [string, string],
  ),
  ...['\\u002f', '\\u002F', '&#x2f;', '&#x2F;', '&#47;', '\\x2f', '\\x2F', '%2f', '%2F', '\\/'].map(
    (text) => [text, '/'] as [string, string],
  ),
  ...['\\r\\n', '\\n', '\\r', '\r\n', '\n', '\r', '\t', ' '].map((text) => [text, ''] as [string, string]),
];

/** How many bytes of white space end a text in base64. */
const MOST_SPACES = 64;

/**
 * Base64 in both alphabets, also broken into lines, decoded around an anchor.
 * @param lead how many bytes of a group of three precede the anchor's first byte
 * @param reach number of characters that are decoded on either side
 */
export function inBase64View(text: string, { start, end }: Range, lead: number, reach: number): View {
  const left = collectLeft(text, start, reach);
  const right = collectRight(text, start, end + reach);
  const characters = [...left.characters, ...right.characters];
  const places = [...left.places, ...right.places];
  const ends = [...left.ends, ...right.ends];
  // The hit begins with the first character that depends on the anchor alone; groups have four characters.
  const first = Math.ceil((lead * 8) / 6);
  const skipped = mod(left.characters.length - first, 4);
  const decoded = Buffer.from(characters.slice(skipped).join(''), 'base64').toString('latin1');
  const anchor = ((left.characters.length - first - skipped) / 4) * 3 + lead;
  return {
    text: decoded,
    at: anchor,
    startOf: (offset) => places[skipped + Math.ceil((offset * 8) / 6)] ?? end,
    endOf: (offset) => ends[skipped + Math.floor((offset * 8) / 6) - 1] ?? end,
  };
}

interface Collected {
  characters: string[];
  places: number[];
  ends: number[];
}

function collectRight(text: string, from: number, until: number): Collected {
  const found: Collected = { characters: [], places: [], ends: [] };
  let spaces = 0;
  for (let at = from; at < text.length && at < until; ) {
    const one = text[at] as string;
    const token: [string, string] | undefined = BASE64.test(one)
      ? [one, one]
      : inBase64.find(([written]) => text.startsWith(written, at));
    if (!token || (token[1] === '' && ++spaces > MOST_SPACES)) break;
    if (token[1] !== '') {
      found.characters.push(token[1]);
      found.places.push(at);
      found.ends.push(at + token[0].length);
    }
    at += token[0].length;
  }
  return found;
}

function collectLeft(text: string, from: number, reach: number): Collected {
  const found: Collected = { characters: [], places: [], ends: [] };
  let spaces = 0;
  for (let at = from; at > 0 && from - at < reach; ) {
    const one = text[at - 1] as string;
    // An escape ends with a letter or digit too, so it is tried first.
    const escaped = inBase64.find(([written]) => text.endsWith(written, at));
    const token = escaped ?? (BASE64.test(one) ? ([one, one] as [string, string]) : undefined);
    if (!token || (token[1] === '' && ++spaces > MOST_SPACES)) break;
    at -= token[0].length;
    if (token[1] !== '') {
      found.characters.unshift(token[1]);
      found.places.unshift(at);
      found.ends.unshift(at + token[0].length);
    }
  }
  return found;
}

/** Hexadecimal around an anchor: two digits a byte. */
export function inHex(text: string, { start }: Range, reach: number): View {
  const isByte = (at: number) => /^[0-9A-Fa-f]{2}$/.test(text.slice(at, at + 2));
  let from = start;
  while (from >= 2 && start - from < reach && isByte(from - 2)) from -= 2;
  let to = start;
  while (to + 2 <= text.length && to - start < reach && isByte(to)) to += 2;
  const decoded = Buffer.from(text.slice(from, to), 'hex').toString('latin1');
  const place = (offset: number) => from + 2 * offset;
  return { text: decoded, at: (start - from) / 2, startOf: place, endOf: place };
}

/** UTF-16 around an anchor, in both byte orders: without its first or last zero byte, the anchor is the same in both. */
export function inUtf16(text: string, { start }: Range): View[] {
  return [0, 1].flatMap((bigEndian) => {
    const first = start - bigEndian;
    if (first < 0) return [];
    const from = first % 2;
    const units = Buffer.from(text.slice(from, from + 2 * Math.floor((text.length - from) / 2)), 'latin1');
    if (bigEndian) units.swap16();
    return [ofUnits(units.toString('utf16le'), (first - from) / 2, (unit) => from + 2 * unit)];
  });
}

/** A list of numbers around an anchor, as bytes of UTF-8 and as UTF-16 units. */
export function inNumbers(text: string, { start }: Range, reach: number): View[] {
  const before = [...text.slice(Math.max(0, start - reach), start).matchAll(/(\d{1,7}(?:e\d)?)\s*,\s*/g)];
  const base = Math.max(0, start - reach);
  // Only numbers without a gap between them and the anchor.
  let from = before.length;
  let edge = start;
  while (from > 0) {
    const one = before[from - 1] as RegExpExecArray;
    if (base + one.index + one[0].length !== edge) break;
    edge = base + one.index;
    from--;
  }
  const after = [...text.slice(edge, start + reach).matchAll(/(\d{1,7}(?:e\d)?)(\s*,\s*)?/gy)];
  const numbers = after.map(([, number = '']) => Number(number));
  const places = after.map(({ index }) => edge + index);
  const ends = after.map(({ 1: number = '', index }) => edge + index + number.length);
  const at = places.indexOf(start);
  if (at < 0) return [];
  const views: View[] = [];
  if (numbers.every((number) => number < 0x100))
    views.push({
      text: Buffer.from(numbers).toString('latin1'),
      at,
      startOf: (offset) => places[offset] ?? start,
      endOf: (offset) => ends[offset - 1] ?? start,
    });
  const units = String.fromCharCode(...numbers.map((number) => Math.min(number, 0xffff)));
  const view = ofUnits(units, at, (unit) => places[unit] ?? ends.at(-1) ?? start);
  views.push({ ...view, endOf: (offset) => ends[view.unitOf(offset) - 1] ?? start });
  return views;
}

/** A text of UTF-16 units as UTF-8. @param placeOf where a unit begins in the original text */
function ofUnits(
  units: string,
  anchor: number,
  placeOf: (unit: number) => number,
): View & { unitOf(offset: number): number } {
  const text = Buffer.from(units).toString('latin1');
  if (text.length === units.length)
    return { text, at: anchor, startOf: placeOf, endOf: placeOf, unitOf: (offset) => offset };
  const starts: number[] = [];
  let unit = 0;
  for (const character of units) {
    for (let byte = Buffer.byteLength(character); byte > 0; byte--) starts.push(unit);
    unit += character.length;
  }
  const unitOf = (offset: number) => starts[offset] ?? unit;
  return {
    text,
    at: starts.indexOf(anchor),
    startOf: (offset) => placeOf(unitOf(offset)),
    endOf: (offset) => placeOf(unitOf(offset)),
    unitOf,
  };
}

/** An encoding of texts that leaves letters and digits alone, decoded once: the value in it may be encoded again. */
interface Nesting {
  name: string;
  tokens: RegExp;
  decode(token: RegExpExecArray): string;
}

const scriptLetters: Readonly<Record<string, string>> = {
  b: '\b',
  t: '\t',
  n: '\n',
  v: '\v',
  f: '\f',
  r: '\r',
  0: '\0',
};

/** The encodings that a value may be in twice, or under another one. */
export const nestings: readonly Nesting[] = [
  {
    name: 'js-string',
    tokens:
      /\\u([dD][89abAB][0-9a-fA-F]{2})\\u([dD][c-fC-F][0-9a-fA-F]{2})|\\u\{([0-9a-fA-F]{1,6})\}|\\u([0-9a-fA-F]{4})|\\x([0-9a-fA-F]{2})|\\([\s\S])/g,
    decode: ([, high, low, braced, unit, byte, other = '']) => {
      const hex = braced ?? unit ?? byte;
      if (high !== undefined && low !== undefined)
        return String.fromCharCode(Number.parseInt(high, 16), Number.parseInt(low, 16));
      if (hex !== undefined) return fromCode(Number.parseInt(hex, 16));
      return scriptLetters[other] ?? other;
    },
  },
  {
    name: 'html',
    tokens: /&(?:#\d{1,7}|#[xX][0-9a-fA-F]{1,6}|[A-Za-z][A-Za-z0-9]{1,30});/g,
    decode: ([token]) => decodeHTML(token),
  },
  {
    name: 'percent',
    tokens: /(?:%[0-9a-fA-F]{2})+/g,
    decode: ([token]) => Buffer.from(token.replaceAll('%', ''), 'hex').toString(),
  },
];

/** A text with one nesting decoded, or undefined if there is nothing to decode. */
export function unnested(text: string, { start }: Range, { tokens, decode }: Nesting): View | undefined {
  const starts: number[] = [];
  const parts: string[] = [];
  let at = 0;
  let anchor = -1;
  const copy = (until: number) => {
    if (start >= at && start < until) anchor = starts.length + start - at;
    parts.push(text.slice(at, until));
    for (; at < until; at++) starts.push(at);
  };
  for (const token of text.matchAll(tokens)) {
    copy(token.index);
    const decoded = Buffer.from(decode(token)).toString('latin1');
    for (let byte = 0; byte < decoded.length; byte++) starts.push(token.index);
    parts.push(decoded);
    at = token.index + token[0].length;
  }
  if (parts.length === 0) return undefined;
  copy(text.length);
  if (anchor < 0) return undefined;
  const place = (offset: number) => starts[offset] ?? text.length;
  return { text: parts.join(''), at: anchor, startOf: place, endOf: place };
}

function fromCode(code: number): string {
  return code <= 0x10ffff ? String.fromCodePoint(code) : '';
}

function mod(number: number, by: number): number {
  return ((number % by) + by) % by;
}
