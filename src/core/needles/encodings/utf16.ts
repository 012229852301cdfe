import type { Encoding } from '../encoding.js';

/** UTF-16 in both byte orders (RFC 2781), as the bytecode of mobile engines and native programs hold texts. */
export const utf16: Encoding = {
  name: 'utf-16',
  example: '\\xe4\\x00"\\x00/\\x00',
  *encode(value) {
    const littleEndian = Buffer.from(value, 'utf16le');
    yield littleEndian;
    yield Buffer.from(littleEndian).swap16();
  },
};
