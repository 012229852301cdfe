import type { Variable } from '../contract/contract.js';
import type { ValueSource } from '../resolve/layer.js';
import type { Secret } from '../secrets/secret.js';
import { fingerprint, type Receipt } from './receipt.js';

/** A value that a build of the bundle would get now. */
export interface GivenValue {
  variable: Variable;
  value: Secret;
  from?: ValueSource;
}

/** One build for several stages: the inlined values are equal, and the others are read when the app loads. */
export function servesBoth({
  receipt,
  given,
  key,
  buildsAlike,
}: {
  receipt: Receipt;
  given: ReadonlyMap<string, GivenValue>;
  key: Uint8Array;
  /** True if builds of the two stages differ in nothing but values. */
  buildsAlike: boolean;
}): boolean {
  const inlined = receipt.predicate.values.filter(({ reach }) => reach === 'public');
  const names = new Set(inlined.map(({ name }) => name));
  const isSame = inlined.every(({ name, fingerprint: built }) => {
    const now = given.get(name);
    return now !== undefined && fingerprint(key, name, now.value) === built;
  });
  return (
    buildsAlike &&
    isSame &&
    [...given.values()].every(({ variable }) => variable.reach !== 'public' || names.has(variable.name))
  );
}
