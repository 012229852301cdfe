import { joinWords } from '../../text/nearest.js';
import { type Evidence, placeOf, type StageValue } from '../evidence.js';
import type { Guess } from './guess.js';

/** Stages with an env file of their own say what they need; one without values yet must have what the others have. */
export function required({ present, stages, uses, broken }: Evidence): Guess {
  const withValue = stagesOfAll(present);
  const without = stages.filter(({ name }) => !withValue.includes(name));
  if (without.length === 0) return {};
  if (withValue.length === 0 && broken.length > 0) return { reason: `${joinWords(broken)} cannot be parsed` };
  if (withValue.length === 0) {
    const fallback = uses.find(({ read }) => read.fallback);
    const more = fallback ? `; the code has a fallback at ${placeOf(fallback)}` : '';
    return { fields: { required: false }, reason: `no file has a value${more}` };
  }
  const names = without.map(({ name }) => name);
  const text = `${joinWords(names)} ${names.length === 1 ? 'has' : 'have'} no value`;
  const needed = stages.filter(({ name, hasValues }) => withValue.includes(name) || !hasValues).map(({ name }) => name);
  if (needed.length === stages.length) return { reason: text };
  return { fields: { required: needed }, reason: `required: ${text}` };
}

/** The stages in which every package that sets a name has a value. */
function stagesOfAll(values: readonly StageValue[]): string[] {
  const owners = new Set(values.map(({ owner }) => owner));
  const isSet = (stage: string, owner: string) =>
    values.some((one) => one.stage === stage && (one.owner === owner || one.owner === ''));
  return [...new Set(values.map(({ stage }) => stage))].filter((stage) =>
    [...owners].every((owner) => owner === '' || isSet(stage, owner)),
  );
}
