import type { Form } from './form.js';

export const flag: Form = {
  name: 'flag',
  problem: (text) => (/^(true|false|1|0)$/.test(text) ? undefined : 'is not true, false, 1 or 0'),
  valid: '/^(true|false|1|0)$/.test(text)',
  measure: 'length',
  type: { typescript: 'boolean', dart: 'bool' },
  textType: '"true" | "false" | "1" | "0"',
  example: 'true',
  foldable: true,
};
