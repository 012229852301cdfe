import { alignments } from '../needles/encodings/base64.js';
import { jsonIn, stringValues } from '../text/json.js';
import { countAtMost } from '../text/sorted.js';

/** Bytes without white space, and the original offset of each one. */
export interface Squeezed {
  bytes: Buffer;
  /** Offsets in the original; one more than there are bytes, the last being the end. */
  offsets: Int32Array;
}

const [TAB, SPACE, RETURN, FEED, BACKSLASH] = [0x09, 0x20, 0x0d, 0x0a, 0x5c];
const [N, R, T] = [0x6e, 0x72, 0x74];

/** Removes white space and the escape sequences `\n`, `\r` and `\t`. */
export function squeeze(source: Uint8Array): Squeezed {
  const bytes = Buffer.allocUnsafe(source.length);
  const offsets = new Int32Array(source.length + 1);
  let length = 0;
  for (let at = 0; at < source.length; at++) {
    const byte = source[at] as number;
    if (byte === SPACE || byte === FEED || byte === RETURN || byte === TAB) continue;
    if (byte === BACKSLASH) {
      const next = source[at + 1];
      if (next === N || next === R || next === T) {
        at++;
        continue;
      }
    }
    bytes[length] = byte;
    offsets[length++] = at;
  }
  offsets[length] = source.length;
  return { bytes: bytes.subarray(0, length), offsets: offsets.subarray(0, length + 1) };
}

/** A text without its styles, and where its bytes came from. */
export interface Unstyled {
  bytes: Buffer;
  /** The original offset of a byte; that of the end for the offset after the last byte. */
  originOf(offset: number): number;
}

/** Control sequences of terminals that set colours and styles (ECMA-48, 5.4), perhaps cut by the end of the text. Longer ones set none. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: the sequences begin with one.
const STYLES = /\x1b(?:$|\[[\x20-\x3f]{0,62}(?:[\x40-\x7e]|$))/g;

/** Removes control sequences. The places of the rest are computed when one is asked for: few texts have anything to mask. */
export function withoutStyles(source: Buffer): Unstyled {
  const text = source.toString('latin1');
  const bytes = Buffer.from(text.replace(STYLES, ''), 'latin1');
  let stretches: Stretches | undefined;
  const originOf = (offset: number) => {
    if (offset >= bytes.length) return source.length;
    stretches ??= stretchesOf(text);
    const index = countAtMost(stretches.starts, offset) - 1;
    return offset + (stretches.removed[index] as number);
  };
  return { bytes, originOf };
}

/** Stretches between sequences: where each begins in the result, and how many bytes were removed before it. */
interface Stretches {
  starts: number[];
  removed: number[];
}

function stretchesOf(text: string): Stretches {
  const stretches: Stretches = { starts: [0], removed: [0] };
  let removed = 0;
  for (const { index, 0: sequence } of text.matchAll(STYLES)) {
    stretches.starts.push(index - removed);
    removed += sequence.length;
    stretches.removed.push(removed);
  }
  return stretches;
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
    for (const form of alignments(text))
      if (form.length >= SHORTEST_WRAPPED) forms.add(form.replaceAll('+', '-').replaceAll('/', '_'));
  }
  return [...forms].filter(({ length }) => length >= SHORTEST_LINE).map((form) => Buffer.from(form, 'latin1'));
}

/** Numbers of bytes that Node.js prints of a buffer and of a typed array; the rest is counted. */
const [OF_BUFFER, OF_ARRAY] = [50, 100];

/** The forms of a value in a buffer (`<Buffer 68 75 ...>`) and in an array (`[ 104, 117, ... ]`) as Node.js prints them, without white space. */
export function printedForms(value: string): Buffer[] {
  const bytes = Buffer.from(value);
  if (bytes.length < SHORTEST_LINE) return [];
  const forms = [bytes.subarray(0, OF_BUFFER).toString('hex'), [...bytes.subarray(0, OF_ARRAY)].join(',')];
  return forms.map((form) => Buffer.from(form));
}

/** The beginnings of a printed buffer, and of an array with a line of its own for its numbers. */
export const printedMarks: readonly string[] = ['<Buffer ', '[\n', '[\r\n'];

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
