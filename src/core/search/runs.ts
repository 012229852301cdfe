import { gramAt } from './gram.js';

/** Runs of token characters: letters, digits, and the signs `_`, `-`, `+` and `/` of tokens and base64. */
export interface Runs {
  /** The first four bytes of tokens, which may also follow a sign in a run. */
  marks: readonly string[];
}

/** Shorter runs are not reported. */
export const SHORTEST_RUN = 20;

/** Conditions for a run without a mark to be reported: a number of digits, and how often the kind of character changes. */
export const RANDOM = { digits: 2, changeIn: 4 } as const;

/** Maximum bytes kept of a run that continues in the next chunk; of a longer run, only the end is reported. */
export const LONGEST_OPEN_RUN = 1024;

const MARK = 4;
const MARK_BITS = 16;
export const MARK_SLOTS = 1 << MARK_BITS;

/** Kinds of bytes; 0 is outside of runs. */
export const [DIGIT, UPPER, LOWER, SIGN] = [1, 2, 3, 4];

/** The kind of every byte. */
export const kindOfByte: Uint8Array = Uint8Array.from({ length: 256 }, (_, byte) => {
  if (byte >= 0x30 && byte <= 0x39) return DIGIT as number;
  if (byte >= 0x41 && byte <= 0x5a) return UPPER as number;
  if (byte >= 0x61 && byte <= 0x7a) return LOWER as number;
  return [0x2d, 0x5f, 0x2b, 0x2f].includes(byte) ? (SIGN as number) : 0;
});

/** A hash table of marks. */
export interface MarkTable {
  /** A byte for each slot: 0, or the number of the mark in {@link grams}, counted from 1; or {@link ANY_MARK}. */
  slots: Uint8Array;
  /** The bytes of each mark. */
  grams: Uint32Array;
}

/** Several marks share the slot, or its mark has no number: every text with this slot counts as a mark. */
const ANY_MARK = 255;

export function markTable(marks: readonly string[]): MarkTable {
  const slots = new Uint8Array(MARK_SLOTS);
  const grams = Uint32Array.from(marks, (mark) => gramAt(Buffer.from(mark, 'latin1'), 0) >>> 0);
  for (const [index, gram] of grams.entries()) {
    const slot = slotOf(gram);
    slots[slot] = slots[slot] === 0 && index + 1 < ANY_MARK ? index + 1 : ANY_MARK;
  }
  return { slots, grams };
}

function isMarkAt(bytes: Uint8Array, at: number, { slots, grams }: MarkTable): boolean {
  const gram = gramAt(bytes, at);
  const found = slots[slotOf(gram)] as number;
  return found !== 0 && (found === ANY_MARK || grams[found - 1] === gram >>> 0);
}

/** Multiplicative hashing (Knuth, The Art of Computer Programming, vol. 3, 6.4). */
function slotOf(gram: number): number {
  return Math.imul(gram, 0x9e3779b1) >>> (32 - MARK_BITS);
}

/**
 * Reports the runs that have a mark or look random. It looks at one byte of most stretches: a run of n characters has no other
 * byte at any of its places, so a place n bytes further is tried first.
 * @param from where a run may begin @param table see {@link markTable}
 * @returns where the last run begins that may go on after `to`
 */
export function scanRuns(
  bytes: Uint8Array,
  { from, to }: { from: number; to: number },
  table: MarkTable,
  onRun: (start: number, end: number) => void,
): number {
  let at = from;
  while (at + SHORTEST_RUN <= to) {
    let edge = at + SHORTEST_RUN;
    while (edge > at && kindOfByte[bytes[edge - 1] as number] !== 0) edge--;
    if (edge > at) {
      at = edge;
      continue;
    }
    let end = at + SHORTEST_RUN;
    while (end < to && kindOfByte[bytes[end] as number] !== 0) end++;
    if (isOfInterest(bytes, at, end, table)) onRun(at, end);
    if (end === to) return at;
    at = end + 1;
  }
  return at;
}

function isOfInterest(bytes: Uint8Array, start: number, end: number, table: MarkTable): boolean {
  if (isMarkAt(bytes, start, table)) return true;
  let [digits, changes, letters, last] = [0, 0, 0, 0];
  for (let at = start; at < end; at++) {
    const kind = kindOfByte[bytes[at] as number] as number;
    if (kind === SIGN) {
      if (at + 1 + MARK <= end && isMarkAt(bytes, at + 1, table)) return true;
      continue;
    }
    letters++;
    if (kind === DIGIT) digits++;
    if (kind !== last && last !== 0) changes++;
    last = kind;
  }
  return digits >= RANDOM.digits && changes * RANDOM.changeIn >= letters;
}

/** Longer texts before an `@` are no user and password. */
const LONGEST_USER_INFO = 256;

const [AT, COLON, SLASH, BACKSLASH] = [0x40, 0x3a, 0x2f, 0x5c];
/** White space and what else ends a URL in text. */
const ending: ReadonlySet<number> = new Set([...Array(0x23).keys(), ...Buffer.from("'<>@\\`{}")]);

/**
 * Reports user and password of URLs, from after `://` to before the `@`: they tell nothing by their characters, and few texts have an `@`.
 * @param from where the text begins @param at where it is new
 */
export function scanUserInfos(
  bytes: Uint8Array,
  { from, at, to }: { from: number; at: number; to: number },
  onRun: (start: number, end: number) => void,
): void {
  for (let end = bytes.indexOf(AT, at); end >= 0 && end < to; end = bytes.indexOf(AT, end + 1)) {
    const start = userInfoBefore(bytes, end, from);
    if (start !== undefined) onRun(start, end);
  }
}

function userInfoBefore(bytes: Uint8Array, end: number, from: number): number | undefined {
  let hasColon = false;
  for (let at = end; at > Math.max(from, end - LONGEST_USER_INFO); at--) {
    const byte = bytes[at - 1] as number;
    if (byte === COLON) hasColon = true;
    else if (byte === SLASH) return hasColon && at < end && isAfterScheme(bytes, at - 1, from) ? at : undefined;
    else if (ending.has(byte)) return undefined;
  }
  return undefined;
}

/** Tells whether the slash at an offset ends `://`, also as JSON escapes it. */
function isAfterScheme(bytes: Uint8Array, slash: number, from: number): boolean {
  const skip = (at: number, byte: number) => (at > from && bytes[at - 1] === byte ? at - 1 : at);
  const second = skip(slash, BACKSLASH);
  const first = skip(second, SLASH);
  if (first === second) return false;
  const colon = skip(first, BACKSLASH);
  return colon > from && bytes[colon - 1] === COLON;
}
