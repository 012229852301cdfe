import { literalText, type Offer } from '../../resolve/layer.js';
import { isPlaceholder } from '../../resolve/value-rules.js';
import { reveal } from '../../secrets/secret.js';
import { shapeOf } from '../../tokens/shapes.js';
import type { Guess, Judged } from './guess.js';

/** The comment about a variable in an example file. */
export function explanation({ name, examples }: Judged): Guess {
  const [about] = examples.flatMap((file) => file.about.get(name) || []);
  return about === undefined ? {} : { fields: { about } };
}

/** Value of a public variable in an example file, unless it is a secret or a placeholder. */
export function example({ name, reach, examples }: Judged): Guess {
  if (reach !== 'public') return {};
  const offers = examples.flatMap(({ layer }) => layer.offers.find((one) => one.name === name) ?? []);
  const text = offers.map(textOf).find((one) => one !== '' && !shapeOf(one) && !isPlaceholder({}, one));
  return text === undefined ? {} : { fields: { example: text } };
}

function textOf(offer: Offer): string {
  const text = literalText(offer);
  return text ? reveal(text) : '';
}
