import type { GivenValue } from '../receipt/serves-both.js';
import { reveal, sameSecret } from '../secrets/secret.js';

/** A value that is another one now. The texts are there for public ones alone. */
export interface ChangedValue {
  name: string;
  change: 'new' | 'gone' | 'changed';
  from?: string;
  to?: string;
}

/** Differences between two sets of values for a build. */
export function changedValues(
  before: ReadonlyMap<string, GivenValue>,
  after: ReadonlyMap<string, GivenValue>,
): ChangedValue[] {
  const names = [...new Set([...before.keys(), ...after.keys()])];
  return names.flatMap((name): ChangedValue[] => {
    const [old, now] = [before.get(name), after.get(name)];
    if (!old || !now) return [{ name, change: old ? 'gone' : 'new' }];
    if (sameSecret(old.value, now.value)) return [];
    const isPublic = old.variable.reach === 'public' && now.variable.reach === 'public';
    return [{ name, change: 'changed', ...(isPublic && { from: reveal(old.value), to: reveal(now.value) }) }];
  });
}
