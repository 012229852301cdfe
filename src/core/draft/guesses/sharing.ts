import { finding } from '../../findings/finding.js';
import { ships } from '../../resolve/value-rules.js';
import { joinWords } from '../../text/nearest.js';
import type { StageValue } from '../evidence.js';
import { decidedAt } from '../material.js';
import type { Guess, Judged } from './guess.js';

/** Stages that use a URL over https. */
export function secureUrls({ reach, form, present }: Judged): Guess {
  const shipped = present.filter(({ stage }) => ships(stage));
  const isSecure = shipped.length > 0 && shipped.every(({ text }) => /^(https|wss):/i.test(text));
  if (reach !== 'public' || form !== 'url' || !isSecure) return {};
  const https = [...new Set(shipped.map(({ stage }) => stage))];
  return { fields: { https }, reason: `https: used in ${joinWords(https)}` };
}

/** Tells whether stages share the value. Only secrets and URLs must differ: those ship by mistake. */
export function distinct({ name, reach, form, isSecret, present }: Judged): Guess {
  if (!isSecret && (reach !== 'public' || form !== 'url')) return {};
  const owners = [...new Set(present.map(({ owner }) => owner))];
  const guesses = owners.map((owner) =>
    distinctIn(
      name,
      present.filter((one) => one.owner === owner),
      isSecret,
    ),
  );
  const at = guesses.findIndex(({ fields }) => fields);
  // Evidence from the files of one package is enough for all.
  const before = guesses.slice(0, at < 0 ? undefined : at);
  return { ...guesses[at], undecided: before.flatMap(({ undecided = [] }) => undecided) };
}

/** @param values of one owner */
function distinctIn(variable: string, values: readonly StageValue[], isSecret: boolean): Guess {
  if (values.length < 2) return {};
  const alike = sameIn(values);
  if (alike.length === 0) return { fields: { distinct: true }, reason: 'distinct: no two stages share a value' };
  if (!alike.some(ships)) return {};
  if (isSecret) return shared(variable, values, alike);
  if (!isCopied(values, alike)) return {};
  return {
    fields: { distinct: true },
    reason: `distinct: ${joinWords(alike)} have the same URL in files of their own`,
  };
}

/** A line that several stages share is reported by adder values; here every guessed stage would repeat it. */
function shared(variable: string, values: readonly StageValue[], stages: string[]): Guess {
  const sharing = values.filter(({ stage }) => stages.includes(stage));
  const [first] = sharing;
  if (sharing.every(({ from }) => from.path === first?.from.path)) return {};
  return { undecided: [finding('contract/undecided', 'shared', { variable, stages }, decidedAt(first?.from))] };
}

/** Tells whether stages have the same value in different files, as a copied file leaves it. */
function isCopied(values: readonly StageValue[], stages: readonly string[]): boolean {
  const paths = values.filter(({ stage }) => stages.includes(stage)).map(({ from }) => from.path);
  return new Set(paths).size === paths.length;
}

/** The stages of the first value that several stages have. */
function sameIn(values: readonly StageValue[]): string[] {
  for (const { text } of values) {
    const same = values.filter((other) => other.text === text).map(({ stage }) => stage);
    if (same.length > 1) return same;
  }
  return [];
}
