import { decodeHTML } from 'entities';

/** Bytes that were decoded from a text, with the place in the text of each. */
export interface DecodedText {
  bytes: Uint8Array;
  /** Offset in the text where each byte begins, and where it ends. */
  starts: ArrayLike<number>;
  ends: ArrayLike<number>;
  /** Encodings, from the outside inwards. */
  encoding: readonly string[];
}

/** Decoders apply to the result of other ones so many times, as in assembly/windows.ts. */
const DEEPEST = 3;

/** Fewer characters have no window. */
const SHORTEST = 12;

/**
 * A text as it is, and everything in it that can be decoded: escapes, base64 in every alignment, hexadecimal, UTF-16 and lists of
 * character codes, also in each other. The text should be short: the cost grows with its size and with what is in it.
 */
export function* decodedTexts(bytes: Uint8Array): Generator<DecodedText> {
  const places = Uint32Array.from({ length: bytes.length + 1 }, (_, index) => index);
  yield* decodedFrom({ bytes, starts: places, ends: places.subarray(1), encoding: [] }, 0);
}

function* decodedFrom(text: DecodedText, depth: number): Generator<DecodedText> {
  yield text;
  if (depth === DEEPEST) return;
  const latin1 = Buffer.from(text.bytes.buffer, text.bytes.byteOffset, text.bytes.length).toString('latin1');
  for (const decode of decoders)
    for (const { name, bytes, starts, ends } of decode(latin1))
      if (bytes.length >= SHORTEST)
        yield* decodedFrom(
          {
            bytes,
            starts: Uint32Array.from(starts, (at) => text.starts[at] ?? 0),
            ends: Uint32Array.from(ends, (at) => text.ends[at - 1] ?? 0),
            encoding: [...text.encoding, name],
          },
          depth + 1,
        );
}

/** Decoded bytes; `starts` and `ends` are offsets in the text that a decoder was given. */
interface Decoded {
  name: string;
  bytes: Uint8Array;
  starts: number[];
  ends: number[];
}

/** One line for each encoding. Each gets a text of one character per byte. */
const decoders: readonly ((text: string) => Iterable<Decoded>)[] = [
  unescaped,
  fromBase64,
  fromHex,
  fromUtf16,
  fromNumbers,
];

/** All escapes of scripts, markup, style sheets and URLs that {@link decodeEscape} knows. Two backslashes are one, whatever follows. */
const escapes =
  /\\u([dD][89abAB][0-9a-fA-F]{2})\\u([dD][c-fC-F][0-9a-fA-F]{2})|\\x([0-9a-fA-F]{2})|\\u\{([0-9a-fA-F]{1,6})\}|\\u([0-9a-fA-F]{4})|\\(["'/])|\\(\\)|\\([nrt])|\\([0-9][0-9a-fA-F]{0,5}) ?|\\([^A-Za-z])|%([0-9a-fA-F]{2})|&(#[xX][0-9a-fA-F]{1,6}|#[0-9]{1,7}|[A-Za-z]{2,8});/g;

/** The same, where all backslashes before a character escape it together, as in strings in strings. */
const greedyEscapes =
  /\\+u([dD][89abAB][0-9a-fA-F]{2})\\+u([dD][c-fC-F][0-9a-fA-F]{2})|\\+x([0-9a-fA-F]{2})|\\+u\{([0-9a-fA-F]{1,6})\}|\\+u([0-9a-fA-F]{4})|\\+(["'/])|\\(\\)|\\([nrt])|\\([0-9][0-9a-fA-F]{0,5}) ?|\\([^A-Za-z])|%([0-9a-fA-F]{2})|&(#[xX][0-9a-fA-F]{1,6}|#[0-9]{1,7}|[A-Za-z]{2,8});/g;

const letters: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t' };

/** @returns the decoded bytes, and the encoding that writes so */
function decodeEscape(match: RegExpExecArray): [bytes: Buffer, name: string] {
  const [all, high, low, byte, braced, unit, quoted, slash, letter, css, sign, percent, entity] = match;
  if (percent !== undefined) return [Buffer.from(percent, 'hex'), 'percent'];
  if (entity !== undefined) return [Buffer.from(decodeHTML(all)), 'html'];
  if (high !== undefined && low !== undefined)
    return [Buffer.from(String.fromCharCode(Number.parseInt(high, 16), Number.parseInt(low, 16))), 'js-string'];
  if (css !== undefined) return [characterOf(css), 'css'];
  const hex = byte ?? braced ?? unit;
  if (hex !== undefined) return [characterOf(hex), 'js-string'];
  const one = quoted ?? slash ?? sign ?? letters[letter ?? ''] ?? '';
  return [Buffer.from(one, 'latin1'), 'js-string'];
}

function characterOf(hex: string): Buffer {
  const code = Number.parseInt(hex, 16);
  return Buffer.from(code <= 0x10ffff ? String.fromCodePoint(code) : '');
}

/** The escapes of one syntax decoded, and all of them: a value may have text that only another syntax would decode. */
function* unescaped(text: string): Generator<Decoded> {
  const marks = ['\\', '%', '&'].filter((mark) => text.includes(mark));
  for (const mark of marks) yield* withoutEscapes(text, mark);
  if (/\\{3}/.test(text)) yield* withoutEscapes(text, '\\', greedyEscapes);
  if (marks.length > 1) yield* withoutEscapes(text, '\\%&');
}

/** @param marks first characters of the escapes that are decoded */
function* withoutEscapes(text: string, marks: string, all = escapes): Generator<Decoded> {
  const parts: Buffer[] = [];
  const [starts, ends]: [number[], number[]] = [[], []];
  const names = new Set<string>();
  let at = 0;
  const copy = (until: number) => {
    parts.push(Buffer.from(text.slice(at, until), 'latin1'));
    for (; at < until; at++) {
      starts.push(at);
      ends.push(at + 1);
    }
  };
  const pattern = new RegExp(all);
  for (let match = pattern.exec(text); match; match = pattern.exec(text)) {
    if (!marks.includes(match[0][0] as string)) {
      // The character after a backslash may begin an escape of another syntax.
      pattern.lastIndex = match.index + 1;
      continue;
    }
    copy(match.index);
    const [bytes, name] = decodeEscape(match);
    parts.push(bytes);
    names.add(name);
    at = match.index + match[0].length;
    for (let byte = 0; byte < bytes.length; byte++) {
      starts.push(match.index);
      ends.push(at);
    }
  }
  if (names.size === 0) return;
  copy(text.length);
  yield { name: [...names].join(', '), bytes: Buffer.concat(parts), starts, ends };
}

/** Runs of base64, also in lines of at least 40 characters whose breaks a string may escape. */
const base64 = /(?:[A-Za-z0-9+/_-]{40,}(?:\\[nrt]|\s){1,32})*[A-Za-z0-9+/_-]{4,}/g;

function* fromBase64(text: string): Generator<Decoded> {
  for (const { 0: run, index } of text.matchAll(base64)) {
    const digits: number[] = [];
    for (const { 0: token, index: at } of run.matchAll(/\\[nrt]|\s+|[^\\\s]/g))
      if (/^[A-Za-z0-9+/_-]$/.test(token)) digits.push(index + at);
    if (digits.length < 16) continue;
    const name = digits.length < run.length ? 'base64-lines' : /[-_]/.test(run) ? 'base64url' : 'base64';
    for (let lead = 0; lead < 4; lead++) {
      const places = digits.slice(lead);
      const bytes = Buffer.from(places.map((at) => text[at]).join(''), 'base64');
      const of = (bit: number) => places[Math.floor(bit / 6)] as number;
      yield {
        name,
        bytes,
        starts: Array.from(bytes, (_, byte) => of(8 * byte)),
        ends: Array.from(bytes, (_, byte) => of(8 * byte + 7) + 1),
      };
    }
  }
}

function* fromHex(text: string): Generator<Decoded> {
  for (const { 0: run, index } of text.matchAll(/[0-9a-fA-F]{24,}/g))
    for (const lead of [0, 1]) {
      const bytes = Buffer.from(run.slice(lead, lead + 2 * Math.floor((run.length - lead) / 2)), 'hex');
      const starts = Array.from(bytes, (_, byte) => index + lead + 2 * byte);
      yield { name: 'hex', bytes, starts, ends: starts.map((at) => at + 2) };
    }
}

function* fromUtf16(text: string): Generator<Decoded> {
  // The zero byte of a character precedes or follows it.
  for (const { 0: run, index } of text.matchAll(/[^\0](?:\0[^\0]){11,}/g)) {
    const starts = Array.from({ length: (run.length + 1) / 2 }, (_, unit) => index + 2 * unit);
    const bytes = Buffer.from(starts.map((at) => text.charCodeAt(at)));
    yield { name: 'utf-16', bytes, starts, ends: starts.map((at) => at + 1) };
  }
}

function* fromNumbers(text: string): Generator<Decoded> {
  for (const { 0: run, index } of text.matchAll(/\d{1,7}(?:\s*,\s*\d{1,7}){11,}/g)) {
    const [starts, ends, parts]: [number[], number[], Buffer[]] = [[], [], []];
    for (const { 0: number, index: at } of run.matchAll(/\d+/g)) {
      const code = Number(number);
      const bytes = Buffer.from(code <= 0x10ffff ? String.fromCodePoint(code) : '\ufffd');
      parts.push(bytes);
      for (let byte = 0; byte < bytes.length; byte++) {
        starts.push(index + at);
        ends.push(index + at + number.length);
      }
    }
    yield { name: 'char-codes', bytes: Buffer.concat(parts), starts, ends };
  }
}
