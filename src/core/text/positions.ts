import { isAscii } from 'node:buffer';
import { countAtMost } from './sorted.js';

/** A place in a text: line and column from 1, column in UTF-16 code units as editors count, offset in bytes from 0. */
export interface Position {
  line: number;
  column: number;
  offset: number;
}

export const LINE_FEED = 0x0a;

/**
 * Lines and columns in a text, by offsets in UTF-16 code units.
 * @returns line and column from 1
 */
export function textPlaces(text: string): (offset: number) => { line: number; column: number } {
  const starts = [0];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
  return (offset) => {
    const line = countAtMost(starts, offset);
    return { line, column: offset - (starts[line - 1] as number) + 1 };
  };
}

/** Positions in a text, by offsets in UTF-16 code units. */
export function textPositions(text: string): (offset: number) => Position {
  const placeOf = textPlaces(text);
  return (offset) => ({ ...placeOf(offset), offset: Buffer.byteLength(text.slice(0, offset)) });
}

/** Line and column of byte offsets. Line starts are collected once, columns on demand. */
export class LineMap {
  readonly #bytes: Uint8Array;
  readonly #starts: number[] = [0];
  #last = 1;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
    for (let at = bytes.indexOf(LINE_FEED); at >= 0; at = bytes.indexOf(LINE_FEED, at + 1)) this.#starts.push(at + 1);
  }

  /** @param offset byte offset, up to and including the length of the text */
  at(offset: number): Position {
    const line = this.#near(offset) ?? countAtMost(this.#starts, offset);
    this.#last = line;
    return { line, column: utf16Length(this.#bytes, this.startOf(line), offset) + 1, offset };
  }

  /** Callers mostly go through a text forward, so the line of the last answer, or the next one, is tried first. */
  #near(offset: number): number | undefined {
    const starts = this.#starts;
    const isIn = (line: number) => {
      const start = starts[line - 1];
      return start !== undefined && start <= offset && offset < (starts[line] ?? Number.POSITIVE_INFINITY);
    };
    return [this.#last, this.#last + 1].find(isIn);
  }

  /** The offset of a line's first byte. @param line from 1 */
  startOf(line: number): number {
    return this.#starts[line - 1] ?? this.#bytes.length;
  }

  /** The text of a line, without its end. @param line from 1 */
  text(line: number): string {
    const end = this.#starts[line] ?? this.#bytes.length + 1;
    const { buffer, byteOffset } = this.#bytes;
    const start = this.startOf(line);
    const text = Buffer.from(buffer, byteOffset + start, Math.max(0, Math.min(end - 1, this.#bytes.length) - start));
    return text.toString().replace(/^\ufeff|\r$/g, '');
  }
}

/**
 * How many UTF-16 code units the UTF-8 text between two offsets has: one for each byte that does not continue a
 * character, and one more for each four-byte character (RFC 3629, section 3).
 */
export function utf16Length(bytes: Uint8Array, start: number, end: number): number {
  if (end - start < SHORT) return unitsIn(bytes, start, end);
  let units = 0;
  for (let at = start; at < end; at += BLOCK) {
    const until = Math.min(at + BLOCK, end);
    units += isAscii(bytes.subarray(at, until)) ? until - at : unitsIn(bytes, at, until);
  }
  return units;
}

/** Most text is ASCII. In longer text, Node.js detects that a hundred times as fast as characters can be counted. */
const [SHORT, BLOCK] = [128, 4096];

function unitsIn(bytes: Uint8Array, start: number, end: number): number {
  let units = 0;
  for (let i = start; i < end; i++) {
    const byte = bytes[i] as number;
    if ((byte & 0xc0) !== 0x80) units += byte >= 0xf0 ? 2 : 1;
  }
  return units;
}
