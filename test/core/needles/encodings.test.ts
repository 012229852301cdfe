import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { encodings, needlesFor } from '../../../src/core/needles/index.js';
import { weakness } from '../../../src/core/needles/weak.js';
import { once } from '../../../src/core/text/once.js';
import { encoders } from '../../support/encoders.js';
import { runs } from '../../support/runs.js';

const surroundings = fc.string({ unit: 'grapheme', maxLength: 9 });
const value = fc
  .string({ unit: 'grapheme', minLength: 8, maxLength: 40 })
  .filter((text) => !weakness(text) && text.isWellFormed());
const ascii = fc.string({ minLength: 8, maxLength: 40 }).filter((text) => !weakness(text));

describe('whatever stands around the value, a real encoder prints one of its needles', () => {
  // Making the needles takes longer than all encoders, so the encoders share them.
  const texts = fc.sample(fc.tuple(fc.oneof(value, ascii), surroundings, surroundings), runs(1000));
  const needlesOf = texts.map(([text]) => once(() => needlesFor([{ value: text, owner: 0 }])));

  test.each(encoders)('%s', (_, encode) => {
    for (const [index, [text, before, after]] of texts.entries()) {
      const output = Buffer.from(encode(before + text + after));
      const isFound = needlesOf[index]?.().some(({ bytes }) => output.includes(Buffer.from(bytes)));
      expect(isFound, JSON.stringify([before, text, after])).toBe(true);
    }
  });
});

test.each([64, 76])('base64 in lines of %i, wherever the value begins', (width) => {
  fc.assert(
    fc.property(fc.string({ minLength: 16, maxLength: 120 }), fc.nat(100), (text, lead) => {
      fc.pre(!weakness(text));
      const encoded = Buffer.from(`${'x'.repeat(lead)}${text}yy`).toString('base64');
      const output = encoded.replace(new RegExp(`.{${width}}`, 'g'), '$&\r\n');
      const needles = needlesFor([{ value: text, owner: 0 }]);
      expect(needles.some(({ bytes }) => output.includes(Buffer.from(bytes).toString()))).toBe(true);
    }),
    { numRuns: runs(200) },
  );
});

describe('a literal with some characters escaped and others not', () => {
  const text = 'Gärten’s ⛴ 🚢';
  test.each([
    'G\\xe4rten’s ⛴ 🚢',
    'G\\u00E4rten’s ⛴ 🚢',
    'Gärten\\u2019s \\u26f4 \\ud83d\\udea2',
    'Gärten\\u2019s \\u26F4 \\u{1F6A2}',
  ])('%s', (literal) => {
    // biome-ignore lint/security/noGlobalEval: the judge is the language itself
    expect(eval(`"${literal}"`)).toBe(text);
    const needles = needlesFor([{ value: text, owner: 0 }]);
    expect(needles.some(({ bytes }) => Buffer.from(literal).includes(Buffer.from(bytes)))).toBe(true);
  });
});

describe('literals of scripts', () => {
  const text = 'it\'s "Überfahrt" `${1}`/\n\\</script>';
  test.each([
    ['single quotes', `'it\\'s "Überfahrt" \`\${1}\`/\\n\\\\</script>'`],
    ['double quotes, escaped', '"it\'s \\"\\xdcberfahrt\\" `${1}`/\\n\\\\</script>"'],
    ['a template', '`it\'s "Überfahrt" \\`\\${1}\\`/\n\\\\</script>`'],
  ])('%s', (_, literal) => {
    // biome-ignore lint/security/noGlobalEval: the judge is the language itself
    expect(eval(literal)).toBe(text);
    const needles = needlesFor([{ value: text, owner: 0 }]);
    expect(needles.some(({ bytes }) => literal.includes(Buffer.from(bytes).toString()))).toBe(true);
  });
});

test('needles are unique by their bytes, with the first encoding and all owners', () => {
  const needles = needlesFor([
    { value: 'made-up-key', owner: 'A' },
    { value: 'made-up-key', owner: 'B' },
  ]);
  expect(new Set(needles.map(({ bytes }) => Buffer.from(bytes).toString())).size).toBe(needles.length);
  expect(needles[0]).toEqual({ bytes: Buffer.from('made-up-key'), encoding: ['plain'], owners: ['A', 'B'] });
  expect(needles.every(({ owners }) => owners.join() === 'A,B')).toBe(true);
});

test('base64 needles hold no character that depends on a neighbour', () => {
  const needles = needlesFor([{ value: 'made-up-key', owner: 0 }]).filter(({ encoding }) => encoding[0] === 'base64');
  for (const lead of ['', 'x', 'xy']) {
    for (const trail of ['', 'z', '\xff']) {
      const output = Buffer.from(`${lead}made-up-key${trail}`).toString('base64');
      expect(needles.filter(({ bytes }) => output.includes(Buffer.from(bytes).toString())).length).toBe(1);
    }
  }
});

test.each<[value: string, because: string | undefined]>([
  ['abc', 'shorter than 6 bytes'],
  ['  abc    ', 'shorter than 6 bytes'],
  ['1234567', 'a short number'],
  ['127.0.0.1', 'a short number'],
  ['4929000000006', undefined],
  ['ababab', 'fewer than four different characters'],
  ['Production', 'an ordinary word'],
  ['tickets', 'a short word'],
  ['s3cr3t-x', undefined],
  ['made-up-key', undefined],
])('%j: %s', (text, because) => expect(weakness(text)).toBe(because));

const byteOf = (sign: string) => `\\x${sign.charCodeAt(0).toString(16).padStart(2, '0')}`;

test('every encoding is in the table once and has an example', () => {
  expect(new Set(encodings.map(({ name }) => name)).size).toBe(encodings.length);
  for (const { name, encode, example } of encodings) {
    const forms = [...encode('ä"/')].map((form) =>
      typeof form === 'string'
        ? form
        : Buffer.from(form)
            .toString('latin1')
            .replace(/[^ -~]/g, byteOf),
    );
    expect([name, forms.some((form) => form.includes(example))]).toEqual([name, true]);
  }
});
