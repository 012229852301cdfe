import { joinWords } from '../text/nearest.js';
import type { Form } from './form.js';

/** One of a few words, as the contract lists them: `{ choice: [low, high] }`. */
export function choice(words: readonly string[]): Form {
  const union = words.map((word) => JSON.stringify(word)).join(' | ');
  return {
    name: 'choice',
    problem: (text) => (words.includes(text) ? undefined : `is not ${joinWords(words, 'or')}`),
    measure: 'length',
    type: { typescript: union, dart: 'String' },
    textType: union,
    example: words[0] ?? '',
    foldable: true,
  };
}
