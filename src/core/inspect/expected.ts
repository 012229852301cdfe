import type { Unsought } from '../findings/check.js';
import { weakness } from '../needles/weak.js';
import type { GivenValue } from '../receipt/serves-both.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { mayHoldSecret } from '../tokens/strength.js';

/**
 * Forms whose values a minifier evaluates, so that only the code of one branch is left. A choice is compared with its words, and
 * the comparison is evaluated.
 */
const foldedForms: ReadonlySet<string> = new Set(['flag', 'integer', 'number', 'port', 'choice']);

/** Tells whether a value may be built in and yet be nowhere in the output: a flag, a number, a short word. */
export function isFoldable({ variable, value }: GivenValue): boolean {
  return foldedForms.has(variable.form.name) || weakness(reveal(value)) !== undefined;
}

/**
 * Build and server variables whose value for a stage is unknown here; `names` are those that may be secrets. An empty value is what
 * pipelines give for a secret that is not available, so it is unknown as well. Whether the contract requires the variable says nothing:
 * what is built may have a value that is optional here.
 */
export function unknownSecrets(
  stage: string,
  /** The stage as each part of the project sees it. */
  resolutions: readonly Resolution[],
): { notSearched: Unsought[]; names: string[] } {
  const unknown = new Map<string, ResolvedValue[]>();
  const known = new Set<string>();
  for (const { values, overridden } of resolutions) {
    // The process environment is searched for, though not every stage reads it.
    for (const { name, value } of overridden) if (!isBlank(value)) known.add(name);
    for (const one of values.values()) {
      const { name, reach, search } = one.variable;
      if (reach === 'public' || search === 'never') continue;
      if (!isBlank(one.value)) known.add(name);
      else unknown.set(name, [...(unknown.get(name) ?? []), one]);
    }
  }
  const without = [...unknown].filter(([name]) => !known.has(name));
  const secrets = without.filter(([name, [one]]) => one && mayHoldSecret(name, one.variable.form.name));
  return {
    notSearched: without.map(([variable, all]) => ({ variable, stage, because: describeUnknown(all) })),
    names: secrets.map(([name]) => name),
  };
}

function isBlank(value: Secret | undefined): boolean {
  return value === undefined || reveal(value).trim() === '';
}

function describeUnknown(all: readonly ResolvedValue[]): string {
  return all.some(({ value }) => value !== undefined) ? 'empty or blank here' : 'no value here';
}
