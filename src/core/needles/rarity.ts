import { table } from './rarity-table.js';

/**
 * Rarity of byte pairs in build output: bits of information (-log2 of the probability), 0 to 15, two per byte, the first in the
 * lower half. The first 256 are those of single bytes; then, for each byte, those of each following byte.
 *
 * It only affects speed: how often a candidate must be compared.
 */
export const rarityTable: Uint8Array = Buffer.from(table, 'base64');

/** Bits that four bytes have, as a Markov chain of the first order. */
export function rarityOf(bytes: Uint8Array, at: number): number {
  let sum = bitsAt(bytes[at] as number);
  for (let index = at; index < at + 3; index++) sum += pairRarity(bytes[index] as number, bytes[index + 1] as number);
  return sum;
}

/** Bits of a byte after another one. */
export function pairRarity(first: number, second: number): number {
  return bitsAt(256 + first * 256 + second);
}

function bitsAt(index: number): number {
  return ((rarityTable[index >> 1] as number) >> ((index & 1) * 4)) & 15;
}
