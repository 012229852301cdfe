import type { Contract, Variable } from '../contract/contract.js';
import { type FindingContext, finding, type RawFinding } from '../findings/finding.js';
import { reveal, sameSecret } from '../secrets/secret.js';
import { namesSecret, shapeOf } from '../tokens/shapes.js';
import { describeSource } from './layer.js';
import type { Resolution, ResolvedValue } from './resolve.js';
import { ships } from './value-rules.js';

/** Tells whether a rule of the contract can only be checked with the values of other stages. */
export function hasCrossStageRule({ variables }: Contract): boolean {
  return [...variables.values()].some(({ distinct, same }) => distinct === true || same);
}

interface Held {
  stage: string;
  value: ResolvedValue;
}

/**
 * Findings about all stages together: values that must differ and do not, or must not and do.
 * @param resolutions what each stage has without the environment of this process, which belongs to none of them but the
 *   one that was asked for
 * @param asked only what concerns this stage; all if absent
 */
export function crossStageFindings(
  contract: Contract,
  resolutions: readonly Resolution[],
  asked?: string,
): RawFinding[] {
  return [...contract.variables.values()].flatMap((variable) => {
    const held = resolutions.flatMap(({ stage, values }): Held[] => {
      const value = values.get(variable.name);
      return value?.value && value.state !== 'empty' ? [{ stage: stage.name, value }] : [];
    });
    return [
      ...(variable.distinct ? shared(variable, held, asked) : []),
      ...(variable.distinct === undefined ? sharedSecret(variable, held, asked) : []),
      ...(variable.same ? differing(variable, held, asked) : []),
    ];
  });
}

function shared(variable: Variable, held: readonly Held[], asked: string | undefined): RawFinding[] {
  return pairs(held, asked).flatMap(([a, b]) =>
    isSame(a, b) ? [finding('value/not-distinct', 'value', compared(variable, a, b), placeOf(a))] : [],
  );
}

/** A secret that a shipped stage shares with another stage, unless the contract allows it. */
function sharedSecret(variable: Variable, held: readonly Held[], asked: string | undefined): RawFinding[] {
  if (variable.reach === 'public' || variable.same || !held.some(({ value }) => isSecret(variable, value))) return [];
  const first = held.find((one) => held.some((other) => other !== one && isSame(one, other)));
  const group = first ? held.filter((one) => isSame(one, first)) : [];
  // One line that several stages read is not a value that somebody copied.
  if (new Set(group.map(lineOf)).size === 1) return [];
  const concerns = asked === undefined || group.some(({ stage }) => stage === asked);
  if (!first || !concerns || !group.some(({ stage }) => ships(stage))) return [];
  const more = { ...placeOf(first), level: 'warning' as const };
  return [finding('value/not-distinct', 'secret', compared(variable, ...group), more)];
}

function lineOf({ value: { from } }: Held): string {
  return JSON.stringify([from?.layer, from?.path, from?.line]);
}

function isSecret({ name, form }: Variable, { value }: ResolvedValue): boolean {
  return namesSecret(name) || form.name === 'pem' || (value !== undefined && shapeOf(reveal(value))?.kind === 'secret');
}

function differing(variable: Variable, held: readonly Held[], asked: string | undefined): RawFinding[] {
  return pairs(held, asked).flatMap(([a, b]) =>
    isSame(a, b) ? [] : [finding('value/not-same', 'value', compared(variable, a, b), placeOf(a))],
  );
}

/** Every pair of stages; if one stage was asked for, only its pairs, with that stage first. */
function pairs(held: readonly Held[], asked: string | undefined): [Held, Held][] {
  const all = held.flatMap((a, index) => held.slice(index + 1).map((b): [Held, Held] => [a, b]));
  if (asked === undefined) return all;
  return all
    .filter(([a, b]) => a.stage === asked || b.stage === asked)
    .map(([a, b]) => (a.stage === asked ? [a, b] : [b, a]));
}

function isSame(a: Held, b: Held): boolean {
  return a.value.value !== undefined && b.value.value !== undefined && sameSecret(a.value.value, b.value.value);
}

function compared({ name }: Variable, ...held: Held[]) {
  const sources = held.flatMap(({ value }) => (value.from ? [describeSource(value.from)] : []));
  return { variable: name, stages: held.map(({ stage }) => stage), sources: [...new Set(sources)] };
}

function placeOf({ stage, value }: Held): FindingContext {
  const { path, line, column } = value.from ?? {};
  if (path === undefined) return { stage };
  return { stage, place: { path, inside: [], ...(line && { line }), ...(column && { column }) } };
}
