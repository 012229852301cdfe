import type { Form } from './form.js';

export const integer: Form = {
  name: 'integer',
  problem(text) {
    if (!/^[+-]?\d+$/.test(text)) return 'is not a whole number';
    return Number.isSafeInteger(Number(text))
      ? undefined
      : 'is larger than a JavaScript number can store exactly (2^53 - 1)';
  },
  valid: String.raw`/^[+-]?\d+$/.test(text) && Number.isSafeInteger(Number(text))`,
  measure: 'size',
  type: { typescript: 'number', dart: 'int' },
  example: '4',
  foldable: true,
};
