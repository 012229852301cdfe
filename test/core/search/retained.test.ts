import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Retained } from '../../../src/core/search/retained.js';

test('windows of the chunk before and after are read as they are in the stream', () => {
  const reach = fc.tuple(fc.integer({ min: 0, max: 25 }), fc.integer({ min: 1, max: 90 }));
  const chunk = fc.record({
    bytes: fc.uint8Array({ minLength: 1, maxLength: 40 }),
    reaches: fc.array(reach, { maxLength: 3 }),
  });
  fc.assert(
    fc.property(fc.array(chunk, { minLength: 1, maxLength: 12 }), (chunks) => {
      const retained = new Retained();
      const all: { from: number; to: number; isFar: boolean }[] = [];
      let [offset, before] = [0, 0];
      for (const { bytes, reaches } of chunks) {
        const windows = reaches.map(([back, length]) => ({ from: offset - back, to: offset - back + length }));
        retained.add(bytes, windows);
        for (const one of windows) all.push({ ...one, isFar: Math.max(0, one.from) < offset - before });
        [offset, before] = [offset + bytes.length, bytes.length];
      }
      const whole = Buffer.concat(chunks.map(({ bytes }) => bytes));
      for (const { from, to, isFar } of all) {
        if (to <= 0) continue;
        const start = Math.max(0, from);
        if (!isFar) expect(retained.covers({ from, to })).toBe(true);
        if (retained.covers({ from, to }))
          expect(Buffer.from(retained.read(start, to))).toEqual(whole.subarray(start, to));
      }
    }),
  );
});

test('too much is not retained, and says so', () => {
  const retained = new Retained();
  const chunk = new Uint8Array(2 ** 20);
  for (let from = 0; from < 20 * 2 ** 20; from += 2 ** 20) retained.add(chunk, [{ from, to: from + 2 ** 20 }]);
  expect(retained.covers({ from: 0, to: 2 ** 20 })).toBe(true);
  expect(retained.covers({ from: 0, to: 2 ** 20 + 1 })).toBe(false);
  expect(retained.covers({ from: 19 * 2 ** 20, to: 20 * 2 ** 20 })).toBe(false);
  expect(retained.read(19 * 2 ** 20, 20 * 2 ** 20)).toHaveLength(0);
});
