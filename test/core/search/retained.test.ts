import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Retained } from '../../../src/core/search/retained.js';

test('a window that is covered is read as it is in the stream; hits cover their surroundings', () => {
  const chunk = fc.record({ bytes: fc.uint8Array({ minLength: 1, maxLength: 40 }), hasHits: fc.boolean() });
  const windows = fc.array(fc.tuple(fc.integer({ min: -10, max: 300 }), fc.integer({ min: 0, max: 90 })));
  fc.assert(
    fc.property(fc.array(chunk, { minLength: 1, maxLength: 12 }), windows, (chunks, asked) => {
      const retained = new Retained();
      for (const { bytes, hasHits } of chunks) retained.add(bytes, hasHits);
      const whole = Buffer.concat(chunks.map(({ bytes }) => bytes));
      for (const [from, length] of asked) {
        const window = { from, to: from + length };
        if (!retained.covers(window)) continue;
        const start = Math.max(0, from);
        expect(Buffer.from(retained.read(start, window.to))).toEqual(whole.subarray(start, Math.max(start, window.to)));
      }
      let offset = 0;
      for (const [index, { bytes, hasHits }] of chunks.entries()) {
        const [before, after] = [chunks[index - 1]?.bytes.length ?? 0, chunks[index + 1]?.bytes.length ?? 0];
        const to = offset + bytes.length + after;
        if (hasHits) expect(retained.covers({ from: offset - before, to })).toBe(true);
        offset += bytes.length;
      }
    }),
  );
});

test('too much is not retained, and says so', () => {
  const retained = new Retained();
  const chunk = new Uint8Array(2 ** 20);
  for (let index = 0; index < 20; index++) retained.add(chunk, true);
  expect(retained.covers({ from: 0, to: 2 ** 20 })).toBe(true);
  expect(retained.covers({ from: 0, to: 15 * 2 ** 20 })).toBe(false);
  expect(retained.covers({ from: 19 * 2 ** 20, to: 20 * 2 ** 20 })).toBe(false);
});
