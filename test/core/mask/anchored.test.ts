import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MaskingStream } from '../../../src/core/mask/masking.js';
import { planMask } from '../../../src/core/mask/plan.js';
import { writtenForms } from '../../../src/core/needles/tolerant/written.js';
import { contractOf, resolutionOf } from '../../support/contract.js';
import { runs } from '../../support/runs.js';

const contract = contractOf(
  'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { FARE_KEY: server, QUAY_URL: server }\n',
);

/** A stream that masks the values of a stage. */
function masking(env: string): MaskingStream {
  const resolution = resolutionOf(contract, 'production', env);
  const { needles, wrapped, anchored } = planMask(contract, resolution, [resolution]);
  return new MaskingStream(needles, wrapped, anchored);
}

/** Masked output of a text that arrives in two pieces. */
function shown(env: string, output: string | Buffer, cut = 0): string {
  const stream = masking(env);
  const bytes = Buffer.from(output);
  return [stream.push(bytes.subarray(0, cut)), stream.push(bytes.subarray(cut)), stream.end()].join('');
}

const run = 'qZ7rT2mX9vLp4';
const value = `Fähre "${run}" <é/42>`;
const env = `FARE_KEY='${value}'\n`;

describe('a value in a mixture of encodings', () => {
  test.each([
    ['script, in two ways', `F\\xe4hre\\u0020\\"${run}\\x22 \\u003cé\\/42>`],
    ['script and percent', `F%C3%A4hre%20\\"${run}%22 \\u{3c}é%2F42\\>`],
    ['HTML and percent', `F&auml;hre &#34;${run}&quot;%20&lt;%C3%A9&#x2f;42>`],
    ['a shell and HTML', `Fähre\\ \\"${run}&#x22; &lt;é/42\\>`],
  ])('%s', (_, text) => {
    expect(shown(env, `key: ${text}.`)).toBe('key: [masked].');
    for (let cut = 0; cut <= text.length + 8; cut++) expect(shown(env, `key: ${text}.`, cut)).toBe('key: [masked].');
  });

  test('most of a random value', () => {
    const key = 'qZ7rT2mX9vLp4KdN8wYc5HsB';
    const shownOf = (text: string) => shown(`FARE_KEY=${key}\n`, `key: ${text}, and more\n`);
    expect(shownOf(key.slice(0, 16))).toBe('key: [masked], and more\n');
    expect(shownOf(key.slice(8))).toBe('key: [masked], and more\n');
    expect(shownOf(key.slice(0, 8))).toBe(`key: ${key.slice(0, 8)}, and more\n`);
  });

  test('text that begins like a value comes through at the end', () => {
    expect(shown(env, 'F\\xe4hre')).toBe('F\\xe4hre');
  });

  test('any value, each character written in any way, cut anywhere', () => {
    const letters = fc.string({
      unit: fc.constantFrom(...'abcdefghjkmnpqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789'),
      minLength: 14,
      maxLength: 24,
    });
    const signs = fc.string({ unit: fc.constantFrom(...'"&<>+ä€=?'), maxLength: 4 });
    fc.assert(
      fc.property(letters, signs, fc.infiniteStream(fc.nat(1000)), fc.nat(1000), (middle, end, choices, at) => {
        const value = `${end}${middle}${end}`;
        fc.pre(new Set(middle).size > 9);
        const runs = [...value];
        const written = runs.map((character, index) => {
          // The anchor is where nothing is escaped.
          const isMiddle = index >= end.length && index < end.length + middle.length;
          const forms = writtenForms(character);
          const form = isMiddle ? character : (forms[choices.next().value % forms.length]?.text ?? character);
          return isMiddle ? form : Buffer.from(form, 'latin1').toString('latin1');
        });
        const output = Buffer.concat([
          Buffer.from('key is '),
          Buffer.from(written.join(''), 'latin1'),
          Buffer.from('.'),
        ]);
        const cut = at % output.length;
        const text = shown(`FARE_KEY=${JSON.stringify(value).replaceAll('$', '')}\n`, output, cut);
        expect([output.toString('latin1'), text]).toEqual([expect.anything(), 'key is [masked].']);
      }),
      { numRuns: runs(300) },
    );
  });
});
