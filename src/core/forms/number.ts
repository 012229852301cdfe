import type { Form } from './form.js';

/** A decimal number as JSON writes it (RFC 8259, section 6), with an optional sign. */
export const number: Form = {
  name: 'number',
  problem: (text) =>
    /^[+-]?(0|[1-9]\d*)(\.\d+)?([eE][+-]?\d+)?$/.test(text) && Number.isFinite(Number(text))
      ? undefined
      : 'is not a decimal number',
  valid: String.raw`/^[+-]?(0|[1-9]\d*)(\.\d+)?([eE][+-]?\d+)?$/.test(text) && Number.isFinite(Number(text))`,
  measure: 'size',
  type: { typescript: 'number', dart: 'double' },
  example: '4.5',
  foldable: true,
};
