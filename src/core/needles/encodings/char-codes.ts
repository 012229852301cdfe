import type { Encoding } from '../encoding.js';

/**
 * A list of numbers, as `String.fromCharCode` and typed arrays take it and as JSON has a buffer: bytes of UTF-8, and UTF-16 units where
 * they are others; with a space after each comma and without.
 */
export const charCodes: Encoding = {
  name: 'char-codes',
  example: '195,164,34,47',
  *encode(value) {
    const bytes = [...Buffer.from(value)];
    const units = Array.from({ length: value.length }, (_, index) => value.charCodeAt(index));
    for (const comma of [',', ', ']) {
      yield bytes.join(comma);
      if (units.length === bytes.length) continue;
      yield units.join(comma);
      // Printers of scripts write 41000 as 41e3.
      yield units.map((unit) => `${unit}`.replace(/0{3,}$/, (zeros) => `e${zeros.length}`)).join(comma);
    }
  },
};
