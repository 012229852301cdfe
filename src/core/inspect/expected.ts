import { isRequired } from '../contract/contract.js';
import type { Doubt, Unsought } from '../findings/check.js';
import { finding, type Place, type RawFinding } from '../findings/finding.js';
import { weakness } from '../needles/weak.js';
import type { GivenValue } from '../receipt/staleness.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { someWords } from '../text/nearest.js';
import { mayHoldSecret } from '../tokens/strength.js';

/**
 * Forms whose values a minifier evaluates, so that only the code of one branch is left. A choice is compared with its words, and
 * the comparison is evaluated.
 */
const foldedForms: ReadonlySet<string> = new Set(['flag', 'integer', 'number', 'port', 'choice']);

/** Longer lists of names say no more. */
const MOST_NAMES = 5;

/** Whether a value may be built in and yet be nowhere in the output: a flag, a number, a short word. */
export function isFoldable({ variable, value }: GivenValue): boolean {
  return foldedForms.has(variable.form.name) || weakness(reveal(value)) !== undefined;
}

/** A value that the code of a bundle reads and that its output, or the site, does not contain. */
export function missingValue(
  where: 'in-output' | 'on-site',
  { variable }: GivenValue,
  about: { stage: string; bundle: string; uncached?: string | undefined },
  place: Place,
): RawFinding {
  return finding('stale/missing-value', where, { variable: variable.name, ...about }, { place });
}

/** Without a receipt, a value that leaves no trace may be an old one. */
export function untraceable(bundle: string, stage: string, names: readonly string[]): Doubt[] {
  if (names.length === 0) return [];
  return [
    {
      question: 'current',
      bundle,
      because: `${bundle} has no receipt, and a build may leave no trace of ${someWords(names, MOST_NAMES)}`,
      remedy: `build it with \`adder with ${stage} --bundle ${bundle}\`, which writes a receipt`,
    },
  ];
}

/**
 * Build and server variables whose value for a stage is unknown here, and the doubt that follows. An empty value is what
 * pipelines give for a secret that is not available, so it is unknown as well.
 */
export function unknownSecrets(
  stage: string,
  /** The stage as each part of the project sees it. */
  resolutions: readonly Resolution[],
): { notSearched: Unsought[]; doubts: Doubt[] } {
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
  const secrets = without.filter(([name, all]) => all.some((one) => mayMatter(name, one, stage)));
  return {
    notSearched: without.map(([variable, all]) => ({ variable, stage, because: describeUnknown(all) })),
    doubts: secrets.length === 0 ? [] : [doubtAbout(secrets.map(([name]) => name))],
  };
}

function isBlank(value: Secret | undefined): boolean {
  return value === undefined || reveal(value).trim() === '';
}

/** Tells whether a secret may exist that cannot be searched for: a stage requires it, or a layer sets it to nothing. */
function mayMatter(name: string, { variable, value, from }: ResolvedValue, stage: string): boolean {
  const isSetToNothing = value !== undefined && from !== undefined;
  return (isSetToNothing || isRequired(variable, stage)) && mayHoldSecret(name, variable.form.name);
}

function describeUnknown(all: readonly ResolvedValue[]): string {
  return all.some(({ value }) => value !== undefined) ? 'empty or blank here' : 'no value here';
}

function doubtAbout(names: readonly string[]): Doubt {
  const [has, them] = names.length === 1 ? ['has', 'it'] : ['have', 'them'];
  return {
    question: 'nothingLeaked',
    because: `${someWords(names, MOST_NAMES)} ${has} no value here, so inspect cannot search for ${them}`,
    remedy: `set ${them} in this environment, or pass --allow-incomplete`,
    isWithoutValue: true,
  };
}
