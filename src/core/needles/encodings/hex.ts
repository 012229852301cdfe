import type { Encoding } from '../encoding.js';

/** Two digits a byte (RFC 4648, section 8), in both letter cases. */
export const hex: Encoding = {
  name: 'hex',
  example: 'c3a4222f',
  *encode(value) {
    const text = Buffer.from(value).toString('hex');
    yield text;
    yield text.toUpperCase();
  },
};
