import { type Excerpt, excerptOf } from '../text/frame.js';
import type { Masker } from './masked-text.js';

/** Bytes of context on each side of a range. */
export const EXCERPT_BYTES = 60;

/** The line around a byte range, masked; undefined if it is not text. */
export function excerptAround(
  read: (from: number, to: number) => Uint8Array,
  masker: Masker,
  line: number,
  { start, end }: { start: number; end: number },
): Excerpt | undefined {
  const { margin } = masker;
  const from = Math.max(0, start - EXCERPT_BYTES - margin);
  const bytes = read(from, end + EXCERPT_BYTES + margin);
  const lineStart = bytes.subarray(0, start - from).lastIndexOf(0x0a) + 1;
  const feed = bytes.indexOf(0x0a, end - from);
  const pieceStart = Math.max(lineStart, start - from - EXCERPT_BYTES, 0);
  const pieceEnd = Math.min(feed < 0 ? bytes.length : feed, end - from + EXCERPT_BYTES);
  const piece = masker.piece(bytes, pieceStart, pieceEnd, { start: start - from, end: end - from });
  return piece && excerptOf(line, piece.text, piece.start + 1, piece.end - piece.start);
}
