import { inspect } from 'node:util';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { numberLists } from '../../../src/core/text/number-lists.js';
import { runs } from '../../support/runs.js';

const spelledIn = (text: string) => numberLists(text).map(({ bytes }) => bytes.toString());

describe('a list of numbers', () => {
  const text = 'q8ZtHUSHhv3sh';
  const bytes = Buffer.from(text);
  const codes = [...bytes];

  test.each<[layout: string, written: string]>([
    ['one in a line', `[\n${codes.join(',\n  ')}\n]`],
    ['one in a line, for other systems', codes.join(',\r\n\t')],
    ['padded', codes.map((code) => `${code}`.padStart(5)).join(',')],
    ['hexadecimal', `f(${codes.map((code) => `0x${code.toString(16)}`).join(',')})`],
    ['hexadecimal in capitals', `f(${codes.map((code) => `0X${code.toString(16).toUpperCase()}`).join(', ')})`],
    ['a buffer, printed', inspect(bytes)],
    ['a typed array, printed', inspect(new Uint8Array(bytes))],
    ['an array, printed', inspect(codes)],
    ['JSON of a buffer', JSON.stringify(bytes, null, 2)],
    ['digits with colons', codes.map((code) => code.toString(16)).join(':')],
  ])('%s is the text that it spells', (_, written) => expect(spelledIn(written)).toContain(text));

  test('of characters beyond a byte has them', () => {
    const wide = 'Gärten’s ⛴ 🚢';
    expect(spelledIn([...wide].map((one) => one.codePointAt(0)).join(', '))).toEqual([wide]);
  });

  test('with an exponent', () => expect(spelledIn('1,1,1,1,1,1,1,41e3')).toEqual([`${'\u0001'.repeat(7)}\ua028`]));

  test.each([
    ['1,2,3,4,5,6,7', 0],
    ['1,2,3,4,5,6,7,8', 1],
  ])('%s counts: %i', (written, count) => expect(numberLists(written)).toHaveLength(count));

  test('has its place, and no name or number before it', () => {
    const [{ start, end } = expect.unreachable()] = numberLists('var a1=[10,20,30,40,50,60,70,80];');
    expect([start, end]).toEqual([8, 31]);
    expect(numberLists('x1.1,2,3,4,5,6,7,8').map(({ start: at }) => at)).toEqual([]);
  });

  test('of any layout, found wherever it is', () => {
    const separator = fc.constantFrom(',', ', ', ',\n  ', ' , ', ',\r\n');
    fc.assert(
      fc.property(fc.string({ minLength: 8, maxLength: 40 }), separator, fc.string(), (value, between, around) => {
        const list = [...Buffer.from(value)].join(between);
        expect(spelledIn(`${around}[${list}]`)).toContain(value);
      }),
      { numRuns: runs(1000) },
    );
  });

  test('that breaks off is read in time', () => {
    for (const one of ['1,', '1 ', '0x1,', 'ab ', '1', ' ', '12345678'])
      expect(numberLists(`${one.repeat(200_000)}!`).length).toBeLessThan(3);
  });
});
