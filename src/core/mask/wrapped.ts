import { alignments } from '../needles/encodings/base64.js';
import { jsonIn, stringValues } from '../text/json.js';

/** Bytes that are left after some were removed, and the original offset of each one. */
export interface Squeezed {
  bytes: Buffer;
  /** Offsets in the original; one more than there are bytes, the last being the end. */
  offsets: Int32Array;
}

const [TAB, SPACE, RETURN, FEED, BACKSLASH] = [0x09, 0x20, 0x0d, 0x0a, 0x5c];
const [N, R, T] = [0x6e, 0x72, 0x74];
const [ESCAPE, OPEN_BRACKET] = [0x1b, 0x5b];
/** Longer sequences set no colour. */
const LONGEST_STYLE = 64;

/** Removes white space and the escape sequences `\n`, `\r` and `\t`. */
export function squeeze(source: Uint8Array): Squeezed {
  return without(source, blankEnd);
}

/** Removes the control sequences of terminals that set colours and styles (ECMA-48, 5.4). */
export function withoutStyles(source: Uint8Array): Squeezed {
  return without(source, styleEnd);
}

/** @param endAt the end of a piece to remove that begins at an offset; the offset itself if none does */
function without(source: Uint8Array, endAt: (source: Uint8Array, start: number) => number): Squeezed {
  const bytes = Buffer.allocUnsafe(source.length);
  const offsets = new Int32Array(source.length + 1);
  let length = 0;
  for (let at = 0; at < source.length; ) {
    const end = endAt(source, at);
    if (end === at) {
      bytes[length] = source[at] as number;
      offsets[length++] = at++;
    } else at = end;
  }
  offsets[length] = source.length;
  return { bytes: bytes.subarray(0, length), offsets: offsets.subarray(0, length + 1) };
}

function blankEnd(source: Uint8Array, start: number): number {
  const byte = source[start];
  if (byte === SPACE || byte === FEED || byte === RETURN || byte === TAB) return start + 1;
  const next = source[start + 1];
  return byte === BACKSLASH && (next === N || next === R || next === T) ? start + 2 : start;
}

/** The end of a control sequence that begins at a place, perhaps cut by the end of the text; the place itself if none does. */
function styleEnd(source: Uint8Array, start: number): number {
  if (source[start] !== ESCAPE) return start;
  if (start + 1 === source.length) return source.length;
  if (source[start + 1] !== OPEN_BRACKET) return start;
  let at = start + 2;
  while (at - start < LONGEST_STYLE && (source[at] as number) >= 0x20 && (source[at] as number) < 0x40) at++;
  const final = source[at];
  if (final === undefined) return source.length;
  return final >= 0x40 && final < 0x7f ? at + 1 : start;
}

/** The shortest text that a program wraps: `openssl` breaks lines at 64 characters, others at 76. */
const SHORTEST_WRAPPED = 57;

/** Minimum length of a line that is masked separately. */
const SHORTEST_LINE = 8;

/**
 * The forms of a value that programs print in lines, without white space: the value itself if it is long or has lines, its
 * base64 and its hexadecimal digits; also the long strings of a JSON document, and the body of a key without its frame.
 */
export function wrappedForms(value: string): Buffer[] {
  const forms = new Set<string>();
  for (const text of [value, ...longStrings(value), ...keyBodies(value)]) {
    const bytes = Buffer.from(text);
    const encoded = [...alignments(text), bytes.toString('hex'), bytes.toString('hex').toUpperCase()];
    if (text.length >= SHORTEST_WRAPPED || text.includes('\n')) forms.add(squeeze(bytes).bytes.toString('latin1'));
    for (const form of encoded) if (form.length >= SHORTEST_WRAPPED) forms.add(form);
    for (const form of printedBytes(bytes)) forms.add(form);
    for (const form of alignments(text))
      if (form.length >= SHORTEST_WRAPPED) forms.add(form.replaceAll('+', '-').replaceAll('/', '_'));
  }
  return [...forms].filter(({ length }) => length >= SHORTEST_LINE).map((form) => Buffer.from(form, 'latin1'));
}

/** Numbers of bytes that Node.js prints of a buffer and of a typed array; the rest is counted. */
const [OF_BUFFER, OF_ARRAY] = [50, 100];

/** A buffer (`<Buffer 68 75 ...>`) and a typed array (`[ 104, 117, ... ]`) as they are printed, without white space. */
function printedBytes(bytes: Buffer): string[] {
  if (bytes.length < SHORTEST_LINE) return [];
  return [bytes.subarray(0, OF_BUFFER).toString('hex'), [...bytes.subarray(0, OF_ARRAY)].join(',')];
}

/** The lines of a value of several lines, for programs that put something before each one. */
export function linesOf(value: string): string[] {
  const lines = [value, ...longStrings(value)].flatMap((text) => (text.includes('\n') ? text.split(/\r?\n/) : []));
  return [...new Set(lines.map((line) => line.trim()))].filter(({ length }) => length >= SHORTEST_LINE);
}

/** The strings in a JSON document that are wrapped when they are printed. */
function longStrings(value: string): string[] {
  if (!/^\s*[[{]/.test(value)) return [];
  const long = stringValues(jsonIn(value)).filter(({ text }) => text.length >= SHORTEST_WRAPPED || text.includes('\n'));
  return long.flatMap(({ text }) => [text, ...keyBodies(text)]);
}

/** The body between the boundary lines of a key (RFC 7468). */
function keyBodies(value: string): string[] {
  return [...value.matchAll(/-----BEGIN [^-]+-----([\s\S]*?)-----END /g)].map(([, body = '']) => body.trim());
}
