import { joinWords } from '../text/nearest.js';
import type { Form } from './form.js';
import { list } from './list.js';
import { text } from './text.js';

/** A form that says nothing of the words that a value may be. */
export function withoutChoices(form: Form): Form {
  if (form.name === 'choice') return text;
  return form.of?.name === 'choice' ? list(text) : form;
}

/** One of a few words, as the contract lists them: `{ choice: [low, high] }`. */
export function choice(words: readonly string[]): Form {
  const union = words.map((word) => JSON.stringify(word)).join(' | ');
  return {
    name: 'choice',
    problem: (text) => (words.includes(text) ? undefined : `is not ${joinWords(words, 'or')}`),
    valid: `${JSON.stringify(words)}.includes(text)`,
    measure: 'length',
    type: { typescript: union, dart: 'String' },
    textType: union,
    example: words[0] ?? '',
    foldable: true,
  };
}
