import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { stringAt } from '../../../src/core/needles/byte-strings.js';
import { AnchorForms } from '../../../src/core/needles/tolerant/anchor-forms.js';
import { anchorsOf } from '../../../src/core/needles/tolerant/anchors.js';
import { AnchoredValue, type Match } from '../../../src/core/needles/tolerant/value.js';
import { writtenForms } from '../../../src/core/needles/tolerant/written.js';
import { weakness } from '../../../src/core/needles/weak.js';
import { encoders } from '../../support/encoders.js';
import { runs } from '../../support/runs.js';

/** The best match of a value in bytes, found as a search would: at every occurrence of every form. */
function find({ value, forms }: Anchored, bytes: Buffer): Match | undefined {
  const text = bytes.toString('latin1');
  let best: Match | undefined;
  for (let number = 0; number < forms.length; number++) {
    const sought = latinOf(forms, number);
    for (let start = text.indexOf(sought); start >= 0; start = text.indexOf(sought, start + 1)) {
      const match = value.match(forms.at(number), text, { start, end: start + sought.length });
      if (match && (!best || match.characters > best.characters)) best = match;
    }
  }
  return best;
}

interface Anchored {
  value: AnchoredValue;
  forms: AnchorForms;
}

function anchored(text: string): Anchored | undefined {
  const forms = new AnchorForms();
  return anchorsOf([...text]).length > 0 ? { value: AnchoredValue.of(text, true, forms), forms } : undefined;
}

function latinOf({ strings }: AnchorForms, form: number): string {
  return Buffer.from(stringAt(strings, form)).toString('latin1');
}

const run = fc.stringMatching(/^[A-Za-z0-9]{12,20}$/);
const any = fc.string({ unit: 'grapheme', maxLength: 20 });
/** Any text with a run of letters and digits in it. */
const value = fc
  .tuple(any, run, any)
  .map((parts) => parts.join(''))
  .filter((text) => !weakness(text) && text.isWellFormed() && anchored(text) !== undefined);
const surroundings = fc.string({ maxLength: 9 });

describe('a value with an anchor is found whole, in any surroundings', () => {
  test.each(encoders)('%s', (_, encode) => {
    fc.assert(
      fc.property(value, surroundings, surroundings, (text, before, after) => {
        const output = Buffer.from(encode(`${before} ${text} ${after}`));
        expect(find(anchored(text) as Anchored, output)).toMatchObject({ isWhole: true });
      }),
      { numRuns: runs(100) },
    );
  });
});

/** Words of at most ten letters, with characters between them that some encoding escapes. */
const prose = fc
  .tuple(
    fc.stringMatching(/^[a-z]{5,10}$/),
    fc.array(fc.tuple(fc.constantFrom(...'&<>"\'\u2019äé/+='), fc.stringMatching(/^[A-Za-z0-9 ]{0,8}$/)), {
      minLength: 1,
    }),
  )
  .map(([first, others]) => first + others.flat().join(''))
  .filter((text) => anchorsOf([...text]).length === 0);

test('a value of short words is found whole, each of its other characters escaped in a way of its own', () => {
  fc.assert(
    fc.property(prose, fc.infiniteStream(fc.nat()), (text, choices) => {
      const forms = new AnchorForms();
      const value = AnchoredValue.shortOf(text, forms) ?? expect.unreachable();
      const escaped = [...text].map((one) => {
        const ways = /[A-Za-z0-9 ]/.test(one) ? [one] : writtenForms(one).map((way) => way.text);
        return ways[(choices.next().value as number) % ways.length];
      });
      expect(find({ value, forms }, Buffer.from(`"${escaped.join('')}"`, 'latin1'))).toMatchObject({ isWhole: true });
    }),
    { numRuns: runs(200) },
  );
});

const hidden: [title: string, encode: (text: string) => string | Buffer][] = [
  ['every character as \\u', (text) => codes(text, (code) => `\\u${code.toString(16).padStart(4, '0')}`)],
  [
    'every character as \\u, in capitals',
    (text) => codes(text, (code) => `\\u${code.toString(16).toUpperCase().padStart(4, '0')}`),
  ],
  ['every byte as \\x', (text) => codes(text, (code) => `\\x${code.toString(16).padStart(2, '0')}`)],
  ['every character as \\u{}', (text) => codes(text, (code) => `\\u{${code.toString(16)}}`)],
  ['decimal references', (text) => codes(text, (code) => `&#${code};`)],
  ['hexadecimal references', (text) => codes(text, (code) => `&#x${code.toString(16)};`)],
  ['percent', (text) => Buffer.from(text).toString('hex').replace(/../g, '%$&')],
  ['base64 of base64', (text) => btoa(Buffer.from(text).toString('base64'))],
  ['base64 of UTF-16', (text) => Buffer.from(text, 'utf16le').toString('base64')],
  ['base64 of UTF-16, big-endian', (text) => Buffer.from(text, 'utf16le').swap16().toString('base64')],
  [
    'every second character escaped',
    (text) => [...text].map((one, at) => (at % 2 || one > '~' ? one : codes(one, (code) => `&#${code};`))).join(''),
  ],
];

function codes(text: string, write: (code: number) => string): string {
  return Array.from({ length: text.length }, (_, at) => write(text.charCodeAt(at))).join('');
}

const latin = fc
  .tuple(fc.string({ maxLength: 12 }), run, fc.string({ maxLength: 12 }))
  .map((parts) => parts.join(''))
  .filter((text) => !weakness(text));

describe('a value that is hidden is found whole', () => {
  test.each(hidden.slice(0, -1))('%s', (_, encode) => {
    fc.assert(
      fc.property(latin, surroundings, surroundings, (text, before, after) => {
        const output = Buffer.from(encode(`${before} ${text} ${after}`));
        expect(find(anchored(text) as Anchored, output)).toMatchObject({ isWhole: true });
      }),
      { numRuns: runs(100) },
    );
  });
});

const texts: [string, (text: string) => string][] = [
  ['JSON', (text) => JSON.stringify(text)],
  ['percent', encodeURIComponent],
  ['HTML', (text) => text.replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`)],
];
const outer: [string, (text: string) => string | Buffer][] = [
  ...texts,
  ['base64', (text) => Buffer.from(text).toString('base64')],
  ['hex', (text) => Buffer.from(text).toString('hex')],
  ['UTF-16', (text) => Buffer.from(text, 'utf16le')],
];

describe('any two encodings, one in the other', () => {
  test.each(texts.flatMap(([inner, first]) => outer.map(([name, second]) => [inner, name, first, second] as const)))(
    '%s in %s',
    (_, __, first, second) => {
      fc.assert(
        fc.property(value, surroundings, surroundings, (text, before, after) => {
          const output = Buffer.from(second(first(`${before} ${text} ${after}`)));
          expect(find(anchored(text) as Anchored, output)).toMatchObject({ isWhole: true });
        }),
        { numRuns: runs(60) },
      );
    },
  );
});

test('half of a value is a part of it, with the number of its characters', () => {
  const text = ['kX7qv9TzR2mW', 'b4Yc8Lp1Hd6N', '0aJ5sG3eQfUx'].join('');
  const found = (part: string) => find(anchored(text) as Anchored, Buffer.from(`x = '${part}';`));
  expect(found(text.slice(0, 18))).toMatchObject({ isWhole: false, characters: 18, start: 5, end: 23 });
  expect(found(text.slice(18))).toMatchObject({ isWhole: false, characters: 18 });
  expect(found('nothing of it')).toBeUndefined();
});

test('a match names its encodings from the outside inwards', () => {
  const text = 'quay:"kX7qv9TzR2mWb4Y"/ä';
  const name = (output: string | Buffer) => find(anchored(text) as Anchored, Buffer.from(output))?.encoding;
  expect(name(text)).toEqual(['plain']);
  expect(name(JSON.stringify(text))).toEqual(['js-string']);
  expect(name(JSON.stringify(JSON.stringify(text)))).toEqual(['js-string']);
  expect(name(encodeURIComponent(text))).toEqual(['percent']);
  expect(name(btoa(encodeURIComponent(text)))).toEqual(['base64', 'percent']);
  expect(name(Buffer.from(text, 'utf16le'))).toEqual(['utf-16']);
  expect(name(Buffer.from(text, 'latin1'))).toEqual(['latin-1']);
});

test('hostile texts take no long time', () => {
  const text = ['kX7qv9TzR2mW', 'b4Yc8Lp1Hd6N'].join('"');
  const all = anchored(text) as Anchored;
  for (const piece of ['\\', '\\u005c', '&amp;', '%25', '+', '"'])
    for (const form of [0, 1]) {
      const around = piece.repeat(20_000);
      const output = Buffer.from(around + latinOf(all.forms, form) + around, 'latin1');
      expect(find(all, output)?.isWhole).not.toBe(true);
    }
}, 20_000);
