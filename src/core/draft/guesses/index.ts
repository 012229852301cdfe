import type { RawFinding } from '../../findings/finding.js';
import { joinWords } from '../../text/nearest.js';
import { namesSecret } from '../../tokens/shapes.js';
import { type Evidence, placeOf, type Use } from '../evidence.js';
import { type FormGuess, guessForm } from '../forms.js';
import { decidedAt } from '../material.js';
import { guessReach, type ReachGuess } from '../reach.js';
import { neededBy } from './bundles.js';
import { example, explanation } from './example.js';
import type { Fields, Guess, Judged } from './guess.js';
import { namesInCode } from './names.js';
import { required } from './required.js';
import { distinct, secureUrls } from './sharing.js';

export type { Fields } from './guess.js';

/** Every guess. Their order is that of the reasons. */
const guesses: readonly ((evidence: Judged) => Guess)[] = [
  secureUrls,
  distinct,
  required,
  neededBy,
  namesInCode,
  explanation,
  example,
];

/** Draft of a contract's entry for a name, with a reason for each part, and the open decisions. */
export function guessed(evidence: Evidence): { fields: Fields; reasons: string[]; undecided: RawFinding[] } {
  const who = guessReach(evidence);
  const form = formOf(evidence);
  const judged = { ...evidence, reach: who.reach, isSecret: who.isSecret === true, ...(form && { form: form.form }) };
  const all: Guess[] = [
    ofReach(evidence, who),
    ...(form ? [{ fields: { form: form.form }, reason: `${form.form}: ${form.because}` }] : []),
    ...guesses.map((guess) => guess(judged)),
  ];
  return {
    fields: Object.assign({ reach: who.reach }, ...all.map(({ fields }) => fields)),
    reasons: all.flatMap(({ reason }) => reason ?? []),
    undecided: all.flatMap(({ undecided = [] }) => undecided),
  };
}

function ofReach({ values, uses }: Evidence, { reach, because, doubt }: ReachGuess): Guess {
  const first = values[0]?.from;
  const place = first?.path === undefined ? uses[0] : first;
  return {
    reason: `${reach}: ${because}${usesText(because, uses)}`,
    undecided: doubt ? [{ ...doubt, ...decidedAt(place) }] : [],
  };
}

function formOf({ name, present }: Evidence): FormGuess | undefined {
  const form = guessForm(
    name,
    present.map(({ text }) => text),
  );
  const isSecretText = namesSecret(name) && form?.form !== 'url' && form?.form !== 'pem';
  return isSecretText ? undefined : form;
}

function usesText(because: string, uses: readonly Use[]): string {
  const places = [...new Set(uses.map(placeOf))].filter((place) => !because.includes(place));
  if (places.length === 0) return '';
  const shown = places.slice(0, 2);
  const more = places.length - shown.length;
  return `; read at ${joinWords([...shown, ...(more > 0 ? [`${more} more`] : [])])}`;
}
