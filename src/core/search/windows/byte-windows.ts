import { kindOfByte } from '../runs.js';

/** Where the windows of a value may begin in a text; the search probes fewer places for the first kinds. */
export const windowKinds = ['run', 'dense', 'loose'] as const;

/**
 * Where a window may be found. `run`: in a run of token characters, with a digit among its first {@link BEGINNING} bytes. `dense`: it
 * has no white space, and a digit and letters of both cases there. `loose`: anywhere.
 */
export type WindowKind = (typeof windowKinds)[number];

/** Bytes at the beginning of a window that are random: most text has no digit among so many. */
export const BEGINNING = 16;

/** Lengths of windows in bytes, all multiples of 4. */
export const windowWidths = [12, 16, 24, 48] as const;

/** A probed offset is a multiple of the stride: a value has a window for each residue. */
export const windowStrides = [8, 4, 2, 1] as const;

/** Hashes of byte windows, by which a search recognises values that it does not have. Plain data, so that threads can share it. */
export interface ByteWindows {
  /** Keys of the hashes, 16 bytes each. */
  keys: Uint8Array;
  /** Lengths of the windows, ascending. */
  widths: readonly number[];
  /** Three numbers for each window: lower and upper half of its hash, and the number of its owner. */
  hashes: Uint32Array;
  /** Smallest stride of the windows of each kind; 0 if none is of that kind. */
  strides: Readonly<Record<WindowKind, number>>;
  /** Shortest run of token characters that has a value: those of names in code are longer. */
  shortestRun: number;
  /** Number of owners. Hits are reported for them, by their numbers. */
  owners: number;
}

/** Longest stretch that is reported for a window, and so the number of bytes in front of a chunk that are searched again. */
export const LONGEST_STRETCH = 1024;

/** A byte of a token or of base64. */
export function isTokenByte(byte: number): boolean {
  return kindOfByte[byte] !== 0;
}
