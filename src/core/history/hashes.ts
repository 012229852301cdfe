import { type ByteWindows, type WindowKind, windowKinds } from '../search/windows/byte-windows.js';
import { sipHash } from '../search/windows/siphash.js';
import type { ChosenWindows } from './windows.js';

/** Hashed windows of one value, as an entry keeps them. */
export interface HashedWindows {
  kind: WindowKind;
  stride: number;
  /** In bytes. */
  width: number;
  windows: { at: number; low: number; high: number }[];
}

/** @param key 16 bytes */
export function hashWindows(key: Uint8Array, value: Uint8Array, { at, ...chosen }: ChosenWindows): HashedWindows {
  return {
    ...chosen,
    windows: at.map((offset) => {
      const [low, high] = sipHash(key, value, offset, chosen.width);
      return { at: offset, low, high };
    }),
  };
}

/**
 * The windows of many values for one search. Owners are numbered as the values are.
 * @param sections values whose windows are hashed with one key
 */
export function byteWindows(
  sections: readonly { key: Uint8Array; values: readonly HashedWindows[] }[],
): ByteWindows | undefined {
  const values = sections.flatMap((section) => section.values);
  if (values.length === 0) return undefined;
  const strides = Object.fromEntries(
    windowKinds.map((kind) => {
      const all = values.filter((one) => one.kind === kind).map(({ stride }) => stride);
      return [kind, all.length > 0 ? Math.min(...all) : 0];
    }),
  ) as Record<WindowKind, number>;
  // A run with a window for each residue of the stride.
  const runs = values.flatMap(({ kind, width, stride }) => (kind === 'run' ? width + stride - 1 : []));
  return {
    shortestRun: Math.min(...runs),
    keys: Buffer.concat(sections.map(({ key }) => key)),
    widths: [...new Set(values.map(({ width }) => width))].sort((a, b) => a - b),
    hashes: Uint32Array.from(
      values.flatMap(({ windows }, owner) => windows.flatMap(({ low, high }) => [low, high, owner])),
    ),
    strides,
    owners: values.length,
  };
}
