import { isRequired } from '../contract/contract.js';
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
 * pipelines give for a secret that is not available, so it is unknown as well. A value that the stage does not require is known
 * if another stage has it, because the values of all stages are searched for.
 */
export function unknownSecrets(
  stage: string,
  /** The stage as each part of the project sees it. */
  resolutions: readonly Resolution[],
  /** All stages. */
  all: readonly Resolution[],
): { notSearched: Unsought[]; names: string[] } {
  const unknown = new Map<string, ResolvedValue[]>();
  const known = new Set<string>();
  for (const { values, overridden, rejected } of resolutions) {
    // The text of a line that cannot be parsed is searched for, as every program may read it.
    for (const { name, value } of rejected) if (weakness(reveal(value)) === undefined) known.add(name);
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
  const elsewhere = new Set(all.flatMap(({ values }) => [...values.values()]).flatMap(knownName));
  const secrets = without.filter(
    ([name, ones]) => ones.some((one) => mayMatter(one, stage, elsewhere)) && mayHoldSecret(name, formOf(ones)),
  );
  return {
    notSearched: without.map(([variable, ones]) => ({ variable, stage, because: describeUnknown(ones) })),
    names: secrets.map(([name]) => name),
  };
}

function knownName({ variable, value }: ResolvedValue): string[] {
  return isBlank(value) ? [] : [variable.name];
}

function formOf([first]: readonly ResolvedValue[]): string {
  return first?.variable.form.name ?? '';
}

/** Tells whether a secret may exist that cannot be searched for: a stage requires it, a layer sets it to nothing, or no stage has a value. */
function mayMatter({ variable, value, from }: ResolvedValue, stage: string, elsewhere: ReadonlySet<string>): boolean {
  const isSetToNothing = value !== undefined && from !== undefined;
  return isSetToNothing || isRequired(variable, stage) || !elsewhere.has(variable.name);
}

function isBlank(value: Secret | undefined): boolean {
  return value === undefined || reveal(value).trim() === '';
}

function describeUnknown(all: readonly ResolvedValue[]): string {
  return all.some(({ value }) => value !== undefined) ? 'empty or blank here' : 'no value here';
}
