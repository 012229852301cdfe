import { ships } from '../../resolve/value-rules.js';
import { joinWords } from '../../text/nearest.js';
import { type Evidence, placeOf, type StageValue } from '../evidence.js';
import type { Guess } from './guess.js';

/** Stages with an env file of their own say what they need; one without values yet must have what the others have. */
export function required({ present, stages, uses, broken, namedAt }: Evidence): Guess {
  const withValue = stagesOfAll(present);
  const without = stages.filter(({ name }) => !withValue.includes(name));
  if (without.length === 0) return {};
  if (withValue.length === 0 && broken.length > 0) return { reason: joinWords(broken) };
  const fallback = uses.find(({ read }) => read.fallback);
  // A host has what a server reads, also if no file of this clone does.
  const reader = uses.find(({ side }) => side === 'server');
  const isOfServer = !fallback && (reader !== undefined || (uses.length === 0 && namedAt !== undefined));
  const shipping = isOfServer ? stages.map(({ name }) => name).filter(ships) : [];
  if (withValue.length === 0) {
    const where = reader ? placeOf(reader) : namedAt;
    if (shipping.length > 0)
      return { fields: { required: shipping }, reason: `no file has a value, and ${where} needs one` };
    const more = fallback ? `; the code has a fallback at ${placeOf(fallback)}` : '';
    return { fields: { required: false }, reason: `no file has a value${more}` };
  }
  const names = without.map(({ name }) => name);
  const text = `${joinWords(names)} ${names.length === 1 ? 'has' : 'have'} no value`;
  const needed = stages
    .filter(({ name, hasValues }) => withValue.includes(name) || !hasValues || shipping.includes(name))
    .map(({ name }) => name);
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
