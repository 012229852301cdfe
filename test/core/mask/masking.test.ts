import { inspect } from 'node:util';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MaskingStream } from '../../../src/core/mask/masking.js';
import { TextMask } from '../../../src/core/mask/text-mask.js';
import { printedForms, wrappedForms } from '../../../src/core/mask/wrapped.js';
import { needlesFor } from '../../../src/core/needles/index.js';
import { matcherFor } from '../../../src/core/search/matcher-for.js';
import { runs } from '../../support/runs.js';

const needles = (...values: string[]) =>
  needlesFor(values.map((value) => ({ value, owner: value }))).map(({ bytes }) => bytes);

/** Pushes a text cut at some places. @returns what was shown after each piece, and at the end */
function mask(bytes: readonly Uint8Array[], text: string | Buffer, cuts: readonly number[]): string[] {
  const stream = new MaskingStream(bytes);
  const source = Buffer.from(text);
  const ends = [...new Set([...cuts, source.length])].sort((a, b) => a - b);
  let from = 0;
  const shown = ends.map((end) => {
    const piece = stream.push(source.subarray(from, end));
    from = end;
    return piece;
  });
  return [...shown, stream.end()].map(String);
}

describe('masking a stream', () => {
  const secret = 'made-up-fare-key';

  test.each([
    ['plain', `key: ${secret}.`, 'key: [masked].'],
    ['in base64', `key: ${Buffer.from(secret).toString('base64url')}.`, 'key: [masked]'],
    ['twice', `${secret}${secret}`, '[masked][masked]'],
    ['in colour', `\x1b[31m${secret}\x1b[0m`, '\x1b[31m[masked]\x1b[0m'],
    ['not there', 'made-up-fare', 'made-up-fare'],
  ])('%s', (_, text, shown) => {
    expect(mask(needles(secret), text, []).join('')).toContain(shown);
  });

  test('cut anywhere, the same is shown', () => {
    const text = `a ${secret} b ${secret}${secret} made-up-fare`;
    const whole = mask(needles(secret), text, []).join('');
    for (let cut = 0; cut <= text.length; cut++) {
      for (const second of [cut, cut + 1, cut + 9])
        expect(mask(needles(secret), text, [cut, Math.min(second, text.length)]).join('')).toBe(whole);
    }
  });

  test('only what may be the beginning of a value is held back', () => {
    expect(mask(needles(secret), 'Listening on 4180: made-u', [20])).toEqual(['Listening on 4180: ', '', 'made-u']);
  });

  test('a rest of three bytes is shown when the stream pauses, and a value that it began is masked from there', () => {
    const stream = new MaskingStream(needles(secret));
    const shown = [
      stream.push(Buffer.from('Name: m')),
      stream.pause(),
      stream.pause(),
      stream.push(Buffer.from('ore m')),
    ];
    expect(shown.map(String)).toEqual(['Name: ', 'm', '', 'ore ']);
    const rest = [stream.pause(), stream.push(Buffer.from(`${secret.slice(1)}! made`)), stream.pause(), stream.end()];
    expect(rest.map(String)).toEqual(['m', '[masked]! ', '', 'made']);
  });

  test('no needle is ever shown, whatever the needles and the cuts', () => {
    const letters = (min: number, max: number) =>
      fc.array(fc.constantFrom('a', 'b', 'c'), { minLength: min, maxLength: max }).map((signs) => signs.join(''));
    fc.assert(
      fc.property(
        fc.uniqueArray(letters(4, 9), { minLength: 1, maxLength: 4 }),
        letters(0, 60),
        fc.array(fc.nat(60)),
        (values, text, cuts) => {
          const bytes = values.map((value) => Buffer.from(value));
          const shown = mask(
            bytes,
            text,
            cuts.filter((cut) => cut <= text.length),
          ).join('');
          for (const piece of shown.split('[masked]')) for (const value of values) expect(piece).not.toContain(value);
          expect(shown).toBe(mask(bytes, text, []).join(''));
        },
      ),
      { numRuns: runs(3000) },
    );
  });

  test('bytes that are no text pass as they are', () => {
    const bytes = Buffer.from([0, 255, 10, 13, 128, 7]);
    expect(Buffer.concat([new MaskingStream(needles(secret)).push(bytes)]).equals(bytes)).toBe(true);
  });
});

test('a path component with a secret is masked as a whole', () => {
  const mask = new TextMask(matcherFor([Buffer.from('made-up-key'), Buffer.from('half/other-half')]));
  expect(mask.maskPath('dist/app-made-up-key.js.map')).toBe('dist/[masked]');
  expect(mask.maskPath('dist/made-up-key-made-up-key/app.js')).toBe('dist/[masked]/app.js');
  expect(mask.maskPath('dist/a-half/other-half-b/app.js')).toBe('dist/[masked]/app.js');
  expect(mask.maskPath('dist/app.js')).toBe('dist/app.js');
});

describe('values as programs print them', () => {
  const masked = (text: string, value = secretText) => {
    const stream = new MaskingStream([Buffer.from(value)], wrappedForms(value), undefined, printedForms(value));
    return Buffer.concat([stream.push(Buffer.from(text)), stream.end()]).toString();
  };
  const secretText = 'q8ZtHUSHhv3sh1234xyz';
  const bytes = Buffer.from(secretText);

  test.each<[what: string, printed: string]>([
    ['a buffer', inspect(bytes)],
    ['a typed array', inspect(new Uint8Array(bytes))],
    ['an array of numbers', inspect([...bytes])],
    ['JSON of a buffer', JSON.stringify(bytes, null, 2)],
  ])('%s', (_, printed) => expect(masked(printed)).not.toMatch(/\b(38|56)\b/));

  test('a buffer prints the first 50 bytes of a long value', () => {
    const long = `${secretText}${secretText}${secretText}`;
    expect(masked(inspect(Buffer.from(long)), long)).toBe('<Buffer [masked] ... 10 more bytes>');
  });

  test.each<[what: string, printed: string]>([
    ['a colour in the middle', `${secretText.slice(0, 5)}\x1b[0m${secretText.slice(5)}`],
    ['a colour for each character', [...secretText].join('\x1b[38;5;120m')],
  ])('%s', (_, printed) => expect(masked(`a \x1b[1m${printed}\x1b[0m b`)).toBe('a \x1b[1m[masked]\x1b[0m b'));

  test('wherever the output is cut', () => {
    const printed = Buffer.from(`a ${[...secretText].join('\x1b[31m')} b`);
    for (let cut = 0; cut <= printed.length; cut++) {
      const stream = new MaskingStream([Buffer.from(secretText)]);
      const shown = [stream.push(printed.subarray(0, cut)), stream.push(printed.subarray(cut)), stream.end()];
      expect(Buffer.concat(shown).toString()).toBe('a [masked] b');
    }
  });

  test('a buffer and an array, wherever the output is cut', () => {
    for (const text of [`a ${inspect(bytes)} b`, `a ${inspect(new Uint8Array(bytes))} b`]) {
      const printed = Buffer.from(text);
      for (let cut = 0; cut <= printed.length; cut++) {
        const stream = new MaskingStream([Buffer.from(secretText)], [], undefined, printedForms(secretText));
        const shown = [stream.push(printed.subarray(0, cut)), stream.push(printed.subarray(cut)), stream.end()];
        expect(Buffer.concat(shown).toString()).not.toMatch(/\b(38|5a|56|90)\b/);
      }
    }
  });

  test('colours around other text stay', () => {
    expect(masked('\x1b[32mok\x1b[0m \x1b[2Kline\x1b[')).toBe('\x1b[32mok\x1b[0m \x1b[2Kline\x1b[');
  });
});
