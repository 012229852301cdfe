import {
  BEGINNING,
  isTokenByte,
  type WindowKind,
  windowKinds,
  windowStrides,
  windowWidths,
} from '../search/windows/byte-windows.js';
import { FEWEST_BITS, guessBits } from './guess-bits.js';

/** Windows of one value: for each residue modulo the stride one or, in long values, one in each half. */
export interface ChosenWindows {
  kind: WindowKind;
  stride: number;
  /** In bytes. */
  width: number;
  /** Offsets in the value. */
  at: number[];
}

/** Smallest stride of each kind. A search probes every stride-th place in runs alone, in part of a text, or in all of it. */
const smallest: Readonly<Record<WindowKind, number>> = { run: 1, dense: 2, loose: 4 };

/** Kinds and strides in the order of their cost to a search. */
const order: readonly [WindowKind, number][] = windowKinds.flatMap((kind) =>
  windowStrides.filter((stride) => stride >= smallest[kind]).map((stride): [WindowKind, number] => [kind, stride]),
);

/**
 * Chooses the windows by which a value is recognised. Each is too long to be guessed for itself, so whoever has the key learns no
 * part of the value. Undefined if the value has too few such windows.
 */
export function chooseWindows(value: Uint8Array): ChosenWindows | undefined {
  const bits = guessBits(value);
  for (const [kind, stride] of order)
    for (const width of windowWidths) {
      const candidates = candidatesOf(value, bits, kind, width);
      const at = onePerResidue(value, candidates, stride, width);
      if (at) return { kind, stride, width, at: [...at, ...inOtherHalf(value, candidates, at, stride, width)] };
    }
  return undefined;
}

/** Offsets of the windows of a kind that have enough bits. */
function candidatesOf(value: Uint8Array, bits: Float64Array, kind: WindowKind, width: number): number[] {
  const all: number[] = [];
  let sum = 0;
  for (let end = 0; end < value.length; end++) {
    sum += bits[end] as number;
    if (end >= width) sum -= bits[end - width] as number;
    const at = end + 1 - width;
    // Sums of fractions are not exact.
    if (at >= 0 && sum >= FEWEST_BITS - 1e-6 && isOfKind(value.subarray(at, at + width), kind)) all.push(at);
  }
  return all;
}

/** Tells whether the search finds a window as one of a kind; see {@link WindowKind}. */
function isOfKind(window: Uint8Array, kind: WindowKind): boolean {
  if (kind === 'loose') return true;
  const beginning = Buffer.from(window.subarray(0, BEGINNING)).toString('latin1');
  if (!/\d/.test(beginning)) return false;
  if (kind === 'run') return window.every(isTokenByte);
  return /[A-Z]/.test(beginning) && /[a-z]/.test(beginning) && window.every((byte) => byte > 0x20);
}

/** The window that the fewest encodings change, for each residue; undefined if a residue has none. */
function onePerResidue(
  value: Uint8Array,
  candidates: readonly number[],
  stride: number,
  width: number,
): number[] | undefined {
  const best = new Map<number, { at: number; plain: number }>();
  for (const at of candidates) {
    const plain = unescapedBytes(value.subarray(at, at + width));
    const known = best.get(at % stride);
    if (!known || plain > known.plain) best.set(at % stride, { at, plain });
  }
  return best.size === stride ? [...best.values()].map(({ at }) => at) : undefined;
}

/** Windows of the half in which the first ones are not, so that either half is found alone. */
function inOtherHalf(
  value: Uint8Array,
  candidates: readonly number[],
  first: readonly number[],
  stride: number,
  width: number,
): number[] {
  const half = value.length / 2;
  const isInFirst = (at: number) => at + width <= half;
  const isInSecond = (at: number) => at >= half;
  const halves = [isInFirst, isInSecond].flatMap((isIn) =>
    first.every(isIn) ? [] : (onePerResidue(value, candidates.filter(isIn), stride, width) ?? []),
  );
  return [...new Set(halves)].filter((at) => !first.includes(at));
}

/** Letters and digits, which no usual encoding of text changes. */
function unescapedBytes(window: Uint8Array): number {
  return window.reduce((sum, byte) => sum + (isTokenByte(byte) && byte !== 0x2b && byte !== 0x2f ? 1 : 0), 0);
}
