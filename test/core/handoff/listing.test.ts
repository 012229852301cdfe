import fc from 'fast-check';
import { expect, test } from 'vitest';
import { usualPaths } from '../../../src/core/contract/host-schema.js';
import { type Listed, parseListing } from '../../../src/core/handoff/listing.js';
import { reveal } from '../../../src/core/secrets/secret.js';

const words = { build: 'build', server: 'runtime' };
const stage = 'live';
const shown = (text: string, paths: Partial<typeof usualPaths> = {}) => {
  const parsed = parseListing(text, { paths: { ...usualPaths, ...paths }, words, stage });
  if ('problem' in parsed) return parsed.problem;
  return parsed.listed.map(({ name, value, scopes }) =>
    [name, value && reveal(value), scopes?.join('+')].filter((one) => one !== undefined).join(' '),
  );
};

test.each<[title: string, text: string, expected: string[] | string, paths?: Partial<typeof usualPaths>]>([
  ['an object of values', '{"A": "1", "B": 2, "C": null}', ['A 1', 'B 2', 'C']],
  ['a list of names', '["A", "B"]', ['A', 'B']],
  ['a list of objects', '[{"name":"A","value":"1"},{"name":"B"}]', ['A 1', 'B']],
  [
    'a list within',
    '{"data":{"items":[{"key":"A","scope":["build"]}]}}',
    ['A build'],
    { items: 'data.items', name: 'key' },
  ],
  ['an object of objects', '{"A":{"value":"1","scope":"runtime"}}', ['A 1 server']],
  ['scopes that are none of ours', '[{"name":"A","scope":["preview"]}]', ['A ']],
  ['an env file', 'A=1\nexport B="two words"\nA=3\nC=$A\n', ['A 3', 'B two words', 'C']],
  ['names', '# names\nA\n\n  B\r\n', ['A', 'B']],
  [
    'items of several stages',
    '[{"name":"A","on":["live","test"]},{"name":"B","on":"test"},{"name":"C","on":"live"},{"name":"D"}]',
    ['A', 'C', 'D'],
    { stage: 'on' },
  ],
  ['masks in the place of values', '{"A": "********", "B": "[hidden]", "C": "**bold**"}', ['A', 'B', 'C **bold**']],
  [
    'items that the host never shows',
    '[{"name":"A","value":"v1:xyz","type":"secret"},{"name":"B","value":"2","type":"plain"}]',
    ['A', 'B 2'],
    { hidden: { path: 'type', is: ['secret', 'sealed'] } },
  ],
  ['nothing', '', []],
  ['a broken document', '{"A": ', 'is not valid JSON'],
  ['a document without the list', '{"error":"no"}', 'has no list of values at "data"', { items: 'data' }],
  ['a list of numbers', '[1]', 'has an item without a name at "name"'],
  ['a page', '<html>', 'is neither JSON, nor an env file, nor one name per line'],
  ['a broken env file', 'A=1\nB="x\n', 'cannot be parsed as an env file in line 2'],
])('%s', (_, text, expected, paths) => expect(shown(text, paths)).toEqual(expected));

test('any text is parsed or refused, and no problem repeats a part of it', () => {
  fc.assert(
    fc.property(fc.string({ minLength: 12 }), (secret) => {
      for (const text of [secret, `[{"name": 1, "value": ${JSON.stringify(secret)}}]`, `A="${secret}`]) {
        const parsed = parseListing(text, { paths: usualPaths, words, stage });
        if ('problem' in parsed) expect(parsed.problem).not.toContain(secret);
      }
    }),
  );
});

test('what an object has is what is listed', () => {
  fc.assert(
    fc.property(
      fc.dictionary(
        fc.stringMatching(/^[A-Z_]{1,12}$/),
        fc.string().filter((text) => !/^[*•●]{3,}$/.test(text)),
      ),
      (values) => {
        const parsed = parseListing(JSON.stringify(values), { paths: usualPaths, words, stage }) as {
          listed: Listed[];
        };
        expect(Object.fromEntries(parsed.listed.map(({ name, value }) => [name, value && reveal(value)]))).toEqual({
          ...values,
        });
      },
    ),
  );
});
