import type { Form } from './form.js';

/** A JSON text (RFC 8259). The parser's message would quote the value, so it is not shown. */
export const json: Form = {
  name: 'json',
  problem(text) {
    try {
      JSON.parse(text);
      return undefined;
    } catch {
      return 'is not valid JSON';
    }
  },
  valid: '(() => { try { JSON.parse(text); return true; } catch { return false; } })()',
  measure: 'length',
  type: { typescript: 'unknown', dart: 'Object?' },
  example: '{"piers":2}',
  foldable: false,
};
