import fc from 'fast-check';
import { expect, test } from 'vitest';
import { fragmentsOf } from '../../../src/core/needles/parts.js';
import { runs } from '../../support/runs.js';

const isFoundIn = (pieces: string[], value: string) =>
  fragmentsOf(value).some((fragment) => pieces.some((piece) => piece.includes(fragment)));

test.each([
  [['k3Zt9HqXv3sh1', '234xyzPq8RtW7', 'aB3'], true],
  [['k3Zt9HqXv3sh1234xyz', 'Pq8RtW7aB3'], true],
  // No piece is as long as a fragment.
  [['k3Zt9Hq', 'Xv3sh12', '34xyzPq'], false],
])('one of the pieces %j has a fragment: %s', (pieces, isFound) => {
  expect(isFoundIn(pieces, pieces.join(''))).toBe(isFound);
});

test('a random value in two or three pieces has a piece with a fragment', () => {
  const digits = [...'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789'];
  // Every third character is a digit, as a random value has one often enough.
  const value = fc
    .array(fc.constantFrom(...digits), { minLength: 24, maxLength: 90 })
    .map((all) => all.map((one, at) => (at % 3 === 1 ? `${one.charCodeAt(0) % 10}` : one)).join(''));
  fc.assert(
    fc.property(
      value,
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (text, a, b) => {
        const cuts = [a, b].map((at) => Math.round(at * text.length)).sort((x, y) => x - y);
        const pieces = [text.slice(0, cuts[0]), text.slice(cuts[0], cuts[1]), text.slice(cuts[1])];
        expect(isFoundIn(pieces, text)).toBe(true);
      },
    ),
    { numRuns: runs(2000) },
  );
});

test('words of a value are no fragments of their own', () => {
  expect(fragmentsOf('correct-horse-battery-staple').every(({ length }) => length === 14)).toBe(true);
});

test('a short value has none', () => expect(fragmentsOf('k3Zt9HqXv3sh1234xyz')).toEqual([]));
