import fc from 'fast-check';
import { expect, test } from 'vitest';
import { jsonStrings } from '../../src/core/text/json-strings.js';

/** Every string in a value, with the property that it belongs to and its place in a list, in the order of its JSON. */
function stringsOf(value: unknown, key = '', index = 0): [key: string, index: number, text: string][] {
  if (typeof value === 'string') return [[key, index, value]];
  if (Array.isArray(value)) return value.flatMap((one, at) => stringsOf(one, key, at));
  if (value === null || typeof value !== 'object') return [];
  return Object.entries(value).flatMap(([name, one], at) => stringsOf(one, name, at));
}

const value = fc.letrec((tie) => ({
  any: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom('', '"', '\\', '\\"', ':,{}[]', 'ä\n⛴', 1.5e-7, true, null),
    fc.string(),
    fc.array(tie('any'), { maxLength: 4 }),
    // Names without escapes, which are all that is asked for.
    fc.dictionary(fc.stringMatching(/^[a-zA-Zä]+$/), tie('any'), { maxKeys: 4, noNullPrototype: true }),
  ),
})).any;

test('all strings of a JSON text, where they stand, whatever space is between', () => {
  fc.assert(
    fc.property(fc.constantFrom(0, 1), fc.dictionary(fc.stringMatching(/^[a-z]+$/), value), (space, document) => {
      const bytes = Buffer.from(JSON.stringify(document, null, space));
      const found = [...jsonStrings(bytes)].map(({ key, index, start, end }) => [
        key,
        index,
        JSON.parse(bytes.toString('utf8', start, end)),
      ]);
      expect(found).toEqual(stringsOf(document));
    }),
  );
});

test('objects are distinct, and invalid JSON ends the iteration', () => {
  const texts = (text: string) => [...jsonStrings(Buffer.from(text))].map(({ key, object }) => `${key} ${object}`);
  expect(texts('[{"a":["x","y"],"b":"z"},{"a":["x"]}]')).toEqual(['a 1', 'a 1', 'b 1', 'a 2']);
  expect(texts('{"a":"x","b":"never ends')).toEqual(['a 1']);
  expect(texts(']]"x":"y"')).toEqual([]);
});
