import type { Encoding } from '../encoding.js';

export const plain: Encoding = {
  name: 'plain',
  example: 'ä"/',
  encode: (value) => [value],
};
