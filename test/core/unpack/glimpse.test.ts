import { expect, test } from 'vitest';
import { glimpseOf, SAMPLE_BYTES } from '../../../src/core/unpack/format.js';

test.each([3 * SAMPLE_BYTES + 1, 2 ** 31 - 1, 2 ** 31 + 1, 2 ** 32 + 1, 2 ** 40])(
  'the samples of %d bytes are its beginning, its middle and its end',
  (size) => {
    const places: [offset: number, end: number][] = [];
    const read = (offset: number, length: number) => {
      places.push([offset, offset + length]);
      return new Uint8Array(length);
    };
    expect(glimpseOf({ size, read }).samples).toHaveLength(3);
    const middle = Math.floor((size - SAMPLE_BYTES) / 2);
    expect(places).toEqual([
      [0, SAMPLE_BYTES],
      [middle, middle + SAMPLE_BYTES],
      [size - SAMPLE_BYTES, size],
    ]);
  },
);
