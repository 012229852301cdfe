import type { Form } from './form.js';

/** A JSON text (RFC 8259). The parser's own message would repeat a piece of it, so the place alone is told. */
export const json: Form = {
  name: 'json',
  problem(text) {
    try {
      JSON.parse(text);
      return undefined;
    } catch (error) {
      const at = /position (\d+)/.exec(String(error))?.[1];
      return at === undefined ? 'is not JSON' : `is not JSON (at character ${Number(at) + 1})`;
    }
  },
  measure: 'length',
  type: { typescript: 'unknown', dart: 'Object?' },
  example: '{"piers":2}',
  foldable: false,
};
