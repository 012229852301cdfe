import type { Form } from './form.js';

/** An address as a browser's own input takes it (HTML Standard, "valid email address"). */
const address =
  /^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$/;

export const email: Form = {
  name: 'email',
  problem(text) {
    if (!text.includes('@')) return 'has no @';
    return address.test(text) ? undefined : 'is not an email address';
  },
  valid: `${address}.test(text)`,
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: 'desk@saltmarsh.example',
  foldable: false,
};
