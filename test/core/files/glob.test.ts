import fc from 'fast-check';
import { expect, test } from 'vitest';
import { globMatcher } from '../../../src/core/files/glob.js';

test.each<[globs: string | string[], path: string, matches: boolean]>([
  ['dist/**', 'dist/.env', true],
  ['*.js', 'a/b.js', false],
  ['', '', false],
  [['', 'a'], 'a', true],
  [[], 'a', false],
  ['x'.repeat(70_000), 'x'.repeat(70_000), false],
])('%j of %s', (globs, path, matches) => expect(globMatcher(globs)(path)).toBe(matches));

test('any text is a glob', () => {
  const text = fc.string({ unit: fc.constantFrom(...'ab/.*?[]{}()!+@,|\\^$'), maxLength: 12 });
  fc.assert(
    fc.property(fc.array(text), text, (globs, path) => {
      expect(globMatcher(globs)(path)).toBeTypeOf('boolean');
    }),
  );
});
