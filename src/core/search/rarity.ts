import { table } from './rarity-table.js';

/**
 * How seldom bytes stand in build output: bits of information (-log2 of the probability), from 0 to 15, two in a byte, the first
 * in its lower half. The first 256 are those of each byte; then, for each byte, those of each byte behind it.
 *
 * It only decides how often a search looks twice.
 */
export const rarityTable: Uint8Array = Buffer.from(table, 'base64');

/** Bits that four bytes have, as a Markov chain of the first order. */
export function rarityOf(bytes: Uint8Array, at: number): number {
  let sum = bitsAt(bytes[at] as number);
  for (let index = at; index < at + 3; index++)
    sum += bitsAt(256 + (bytes[index] as number) * 256 + (bytes[index + 1] as number));
  return sum;
}

function bitsAt(index: number): number {
  return ((rarityTable[index >> 1] as number) >> ((index & 1) * 4)) & 15;
}
