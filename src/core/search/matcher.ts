import { type ByteStrings, byteStrings, extremesOf } from '../needles/byte-strings.js';

/** One per occurrence. Offsets are absolute in the input, in bytes; `end` is excluded. */
export type OnHit = (needle: number, start: number, end: number) => void;

/**
 * Finds every occurrence of every needle in a stream of bytes, overlapping ones too.
 *
 * The caller reads straight into `window` and says how much it read, so that bytes are not copied on their way from the
 * file. Use one input at a time: `start`, then `feed` until the input ends.
 */
export interface Matcher {
  /** Where the next bytes go; `feed` leaves them there. */
  readonly window: Uint8Array;
  start(): void;
  /**
   * Runs that a chunk cuts are reported with each chunk that adds to them.
   * @param length how many bytes of `window` are filled, from its beginning
   */
  feed(length: number, onHit: OnHit): void;
}

/** Needles to search for. */
export type NeedleBytes = ByteStrings | readonly Uint8Array[];

/** Needles with the lengths of the shortest and the longest one. @throws RangeError if one is shorter than `least` bytes */
export function measured(
  needles: NeedleBytes,
  least: number,
): { strings: ByteStrings; shortest: number; longest: number } {
  const strings = 'starts' in needles ? needles : byteStrings(needles);
  const { shortest, longest } = extremesOf(strings);
  if (shortest < least) throw new RangeError(`a needle must have at least ${least} bytes`);
  return { strings, shortest, longest };
}

/** One occurrence, as {@link findAll} gives them. */
export interface Hit {
  needle: number;
  start: number;
  end: number;
}

/** All hits in bytes that are in memory, by start, then by needle. */
export function findAll(matcher: Matcher, bytes: Uint8Array): Hit[] {
  const hits: Hit[] = [];
  matcher.start();
  for (let at = 0; at < bytes.length; ) {
    const piece = bytes.subarray(at, at + matcher.window.length);
    matcher.window.set(piece);
    matcher.feed(piece.length, (needle, start, end) => hits.push({ needle, start, end }));
    at += piece.length;
  }
  return hits.sort((a, b) => a.start - b.start || a.needle - b.needle);
}
