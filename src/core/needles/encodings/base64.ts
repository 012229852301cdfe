import type { Encoding } from '../encoding.js';

/** Base64 (RFC 4648, section 4) and its URL-safe alphabet (section 5), wherever the value begins in the encoded text. */
export const base64: Encoding = {
  name: 'base64',
  example: 'w6QiL',
  encode: (value) => alignments(Buffer.from(value), 'base64'),
};

export const base64url: Encoding = {
  name: 'base64url',
  example: 'w6QiL',
  encode: (value) => alignments(Buffer.from(value), 'base64url'),
};

/**
 * Three bytes become four characters, so a value that begins one or two bytes into a group looks otherwise. Only the
 * characters that depend on no neighbour are kept: those all six bits of which are the value's own.
 */
function* alignments(value: Buffer, alphabet: 'base64' | 'base64url'): Iterable<Uint8Array> {
  for (const lead of [0, 1, 2]) {
    const text = Buffer.concat([Buffer.alloc(lead), value]).toString(alphabet);
    const from = Math.ceil((lead * 8) / 6);
    const to = Math.floor(((lead + value.length) * 8) / 6);
    yield Buffer.from(text.slice(from, to));
  }
}
