import type { Form } from './form.js';

export const text: Form = {
  name: 'text',
  problem: () => undefined,
  valid: 'true',
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: 'any text',
  foldable: false,
};
