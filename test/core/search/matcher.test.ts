import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { wasmGrams } from '../../../src/core/search/kernel/wasm.js';
import { Locator } from '../../../src/core/search/locate.js';
import { findAll, type Hit, type Matcher } from '../../../src/core/search/matcher.js';
import { naiveFindAll } from '../../../src/core/search/naive.js';
import { sampledGrams } from '../../../src/core/search/sampled-grams.js';
import { LineMap } from '../../../src/core/text/positions.js';
import { runs } from '../../support/runs.js';

const bytes = (text: string) => Buffer.from(text);

type Make = (needles: readonly Uint8Array[], chunkSize?: number) => Matcher;

const matchers: [name: string, make: Make][] = [
  ['in JavaScript', sampledGrams],
  ['in WebAssembly', wasmGrams],
  ['in WebAssembly, for little input', (needles, chunkSize) => wasmGrams(needles, chunkSize, undefined, 1000)],
];

describe.each(matchers)('the matcher %s finds what the naive one finds', (_, make) => {
  /** Feeds pieces of given lengths, as a file might come. */
  const feed = (needles: readonly Uint8Array[], text: Uint8Array, chunkSize: number): Hit[] =>
    findAll(make(needles, chunkSize), text);

  // Few letters, so that needles overlap, repeat and contain each other.
  const letters = (alphabet: string, minLength: number, maxLength: number) =>
    fc.array(fc.constantFrom(...alphabet), { minLength, maxLength }).map((signs) => bytes(signs.join('')));
  const cases = fc.constantFrom('ab', 'abc', 'ab\0\xff').chain((alphabet) =>
    fc.record({
      needles: fc.array(letters(alphabet, 4, 14), { minLength: 1, maxLength: 12 }),
      text: letters(alphabet, 0, 300),
      chunkSize: fc.integer({ min: 1, max: 64 }),
    }),
  );

  test('random needles and texts, chunks of every size', () => {
    fc.assert(
      fc.property(cases, ({ needles, text, chunkSize }) => {
        const unique = [...new Map(needles.map((needle) => [needle.toString('latin1'), needle])).values()];
        expect(feed(unique, text, chunkSize)).toEqual(naiveFindAll(unique, text));
      }),
      { numRuns: runs(1500) },
    );
  });

  test('planted needles of all lengths in random bytes', () => {
    const planted = fc.record({
      needles: fc.uniqueArray(fc.uint8Array({ minLength: 6, maxLength: 60 }), {
        minLength: 1,
        maxLength: 30,
        selector: (one) => one.toString(),
      }),
      gaps: fc.array(fc.uint8Array({ maxLength: 40 }), { minLength: 1, maxLength: 40 }),
      chunkSize: fc.integer({ min: 1, max: 200 }),
    });
    fc.assert(
      fc.property(planted, ({ needles, gaps, chunkSize }) => {
        const text = Buffer.concat(gaps.flatMap((gap, index) => [gap, needles[index % needles.length] as Uint8Array]));
        const hits = feed(needles, text, chunkSize);
        expect(hits.length).toBeGreaterThanOrEqual(gaps.length);
        expect(hits).toEqual(naiveFindAll(needles, text));
      }),
      { numRuns: runs(250) },
    );
  });

  test('a hit across a chunk border at every offset, at the first byte and the last', () => {
    const needle = bytes('made-up-key');
    for (let at = 0; at <= 40; at++) {
      const text = bytes('.'.repeat(at) + needle.toString() + '.'.repeat(40 - at));
      for (const chunkSize of [1, 7, 16, 51, 100]) {
        expect(feed([needle], text, chunkSize)).toEqual([{ needle: 0, start: at, end: at + needle.length }]);
      }
    }
  });

  test('more hits in one piece than there is room for', () => {
    const text = bytes('a'.repeat(60_000));
    const hits = feed([bytes('aaaaaaaaaa'), bytes('aaaaaaaaaaaa')], text, 256 * 1024);
    expect(hits.length).toBe(59_991 + 59_989);
    expect(hits).toEqual(naiveFindAll([bytes('aaaaaaaaaa'), bytes('aaaaaaaaaaaa')], text));
  });

  test('many needles that begin alike, or end alike, so that their windows are shared', () => {
    const parts = fc.record({ at: fc.nat(400), gap: fc.string({ maxLength: 5 }) });
    const needles = Array.from({ length: 400 }, (_, index) =>
      bytes(index % 2 === 0 ? `https://api.saltmarsh.example/${index}` : `${index}/berths.saltmarsh.example`),
    );
    fc.assert(
      fc.property(fc.array(parts, { maxLength: 30 }), (places) => {
        const text = bytes(places.map(({ at, gap }) => `${needles[at % needles.length]}${gap}`).join(''));
        expect(feed(needles, text, 100)).toEqual(naiveFindAll(needles, text));
      }),
      { numRuns: runs(50) },
    );
  });

  test('a matcher can be used again, and keeps nothing of the last input', () => {
    const matcher = make([bytes('abcdef')]);
    expect(findAll(matcher, bytes('xxabc'))).toEqual([]);
    expect(findAll(matcher, bytes('def'))).toEqual([]);
    expect(findAll(matcher, bytes('abcdef'))).toHaveLength(1);
  });

  test('without needles nothing is found', () => {
    expect(findAll(make([]), bytes('anything'))).toEqual([]);
  });

  test('a needle that is too short is refused', () => {
    expect(() => make([bytes('abc')])).toThrow(RangeError);
  });
});

test('streamed positions agree with those of a text in memory', () => {
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom('a', 'ä', '⛴', '😀', '\n', '\r\n')),
      fc.integer({ min: 1, max: 5 }),
      (signs, size) => {
        const text = bytes(signs.join(''));
        const offsets = [...text.keys(), text.length].filter((at) => ((text[at] ?? 0) & 0xc0) !== 0x80);
        const locator = new Locator(offsets);
        for (let at = 0; at < text.length; at += size) locator.feed(text.subarray(at, at + size));
        if (text.length === 0) locator.feed(text);
        const lines = new LineMap(text);
        expect(locator.positions).toEqual(offsets.map((offset) => lines.at(offset)));
      },
    ),
  );
});
