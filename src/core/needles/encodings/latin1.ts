import type { Encoding } from '../encoding.js';

/** ISO 8859-1: one byte for each character up to U+00FF. ASCII is the same in UTF-8, and other signs have no place in it. */
export const latin1: Encoding = {
  name: 'latin-1',
  example: '\\xe4"/',
  encode: (value) => (/^[\0-\xff]*[\x80-\xff][\0-\xff]*$/.test(value) ? [Buffer.from(value, 'latin1')] : []),
};
