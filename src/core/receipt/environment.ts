import type { Reach } from '../findings/reach.js';
import type { Resolution } from '../resolve/resolve.js';
import type { ReceiptValue } from './receipt.js';

/** Variables that the process environment may give, and nothing gives here, by name. */
export type Unset = ReadonlyMap<string, Reach>;

export function unsetIn({ stage, values }: Resolution): Unset {
  const mayBeGiven = stage.layers.some(({ kind }) => kind === 'process');
  const unset = mayBeGiven ? [...values.values()].filter(({ value }) => !value) : [];
  return new Map(unset.map(({ variable: { name, reach } }) => [name, reach]));
}

/** Tells whether a build had a value from its environment alone, so that its absence in another shell says nothing. */
export function isUnknown({ name, reach, from }: Pick<ReceiptValue, 'name' | 'reach' | 'from'>, unset: Unset): boolean {
  return from?.layer === 'process' && unset.get(name) === reach;
}
