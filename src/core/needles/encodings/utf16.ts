import type { Encoding } from '../encoding.js';

/**
 * UTF-16 in both byte orders (RFC 2781), as the bytecode of mobile engines and native programs hold texts. Without the zero byte that a
 * Latin text ends with in the one order and begins with in the other: between two such signs both orders look alike.
 */
export const utf16: Encoding = {
  name: 'utf-16',
  example: '\\xe4\\x00"\\x00/',
  *encode(value) {
    const littleEndian = Buffer.from(value, 'utf16le');
    const bigEndian = Buffer.from(littleEndian).swap16();
    yield littleEndian.subarray(0, littleEndian.at(-1) === 0 ? -1 : undefined);
    yield bigEndian.subarray(bigEndian[0] === 0 ? 1 : 0);
  },
};
