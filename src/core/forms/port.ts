import type { Form } from './form.js';

export const port: Form = {
  name: 'port',
  problem: (text) =>
    /^\d{1,5}$/.test(text) && Number(text) >= 1 && Number(text) <= 65535 ? undefined : 'is not a port (1 to 65535)',
  valid: String.raw`/^\d{1,5}$/.test(text) && Number(text) >= 1 && Number(text) <= 65535`,
  measure: 'size',
  type: { typescript: 'number', dart: 'int' },
  example: '4180',
  foldable: true,
};
