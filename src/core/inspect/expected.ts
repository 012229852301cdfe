import { isRequired, type Variable } from '../contract/contract.js';
import type { Doubt, Unsought } from '../findings/check.js';
import type { Place, RawFinding } from '../findings/finding.js';
import { weakness } from '../needles/weak.js';
import type { GivenValue } from '../receipt/staleness.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
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

/** A value that the code of a bundle reads and its output does not contain. */
export function missingValue(
  { variable }: GivenValue,
  { stage, bundle, place, uncached }: { stage: string; bundle: string; place: Place; uncached?: string | undefined },
): RawFinding {
  const again = `rebuild with \`adder with ${stage} --bundle ${bundle}\``;
  const option = uncached === undefined ? '' : ` and ${uncached}, as the tool's cache keeps old values`;
  return {
    code: 'stale/missing-value',
    variable: variable.name,
    stage,
    bundle,
    place,
    message: `the output of ${bundle} does not contain the ${stage} value of ${variable.name}, which this code reads`,
    remedy: `${again}${option}; if that does not help, the build does not replace this read: run \`adder lint\``,
  };
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

/** Build and server variables whose value for a stage is unknown here, and whether one of them is a secret that must exist. */
export function unknownSecrets(
  stage: string,
  /** The stage as each part of the project sees it. */
  resolutions: readonly Resolution[],
): { notSearched: Unsought[]; doubts: Doubt[] } {
  const unknown = new Map<string, Variable[]>();
  const known = new Set<string>();
  for (const { values, overridden } of resolutions) {
    // The process environment is searched for, though not every stage reads it.
    for (const { name } of overridden) known.add(name);
    for (const { variable, value } of values.values()) {
      if (variable.reach === 'public' || variable.search === 'never') continue;
      if (value && reveal(value) !== '') known.add(variable.name);
      else unknown.set(variable.name, [...(unknown.get(variable.name) ?? []), variable]);
    }
  }
  const without = [...unknown].filter(([name]) => !known.has(name));
  const secrets = without.filter(([name, all]) =>
    all.some((one) => isRequired(one, stage) && mayHoldSecret(name, one.form.name)),
  );
  const names = secrets.map(([name]) => name);
  return {
    notSearched: without.map(([variable]) => ({ variable, stage, because: 'no value here' })),
    doubts:
      names.length === 0
        ? []
        : [
            {
              question: 'nothingLeaked',
              because: `${someWords(names, MOST_NAMES)} ${names.length === 1 ? 'has' : 'have'} no value here, so inspect cannot search for ${names.length === 1 ? 'it' : 'them'}`,
              remedy: `set ${names.length === 1 ? 'it' : 'them'} in this environment, or pass --allow-incomplete`,
            },
          ],
  };
}
