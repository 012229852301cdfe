import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeEntry, type ValueEntry } from '../../../src/core/history/entry.js';
import { byteWindows } from '../../../src/core/history/hashes.js';
import { type PastValue, pastValues } from '../../../src/core/history/history.js';
import { sectionKeys } from '../../../src/core/history/keys.js';
import { HistorySearch } from '../../../src/core/history/search.js';
import { planForValues } from '../../../src/core/inspect/plan.js';
import { ArtifactSearch } from '../../../src/core/inspect/search.js';
import { wasmGrams } from '../../../src/core/search/kernel/wasm.js';
import type { Matcher } from '../../../src/core/search/matcher.js';
import { sampledGrams } from '../../../src/core/search/sampled-grams.js';
import { Secret } from '../../../src/core/secrets/secret.js';
import { encoders } from '../../support/encoders.js';
import { randomValues } from '../../support/random-values.js';
import { isThorough, runs } from '../../support/runs.js';

const key = Buffer.alloc(32, 7);
const keys = sectionKeys(key);

function entryOf(value: string, reach: 'server' | 'public' = 'server'): ValueEntry | undefined {
  const about = { variable: 'FARE_SIGNING_KEY', stage: 'production', reach, day: '2026-08-01' };
  const made = makeEntry(keys, { ...about, value: new Secret(value) });
  return 'notKept' in made ? undefined : made;
}

function past(...entries: ValueEntry[]): PastValue[] {
  return pastValues([{ key, keys, entries: new Map(entries.map((one, index) => [`${index}`, one])) }], []);
}

/** Stretches of a text that a matcher reports, and the values in them. */
function recognised(make: 'kernel' | 'twin', value: string, text: Uint8Array, chunk = 4096) {
  const entry = entryOf(value);
  if (!entry) return undefined;
  const search = new HistorySearch(past(entry));
  const matcher: Matcher =
    make === 'kernel'
      ? wasmGrams([], chunk, undefined, undefined, search.windows)
      : sampledGrams([], chunk, undefined, search.windows);
  const stretches: [number, number][] = [];
  matcher.start();
  for (let at = 0; at < text.length; at += matcher.window.length) {
    const piece = text.subarray(at, at + matcher.window.length);
    matcher.window.set(piece);
    matcher.feed(piece.length, (_, start, end) => stretches.push([start, end]));
  }
  const found = stretches.flatMap(([start, end]) =>
    search.around(0, start, end, (from, to) => text.subarray(from, to)),
  );
  // Stretches overlap.
  return [...new Map(found.map((one) => [`${one.start} ${one.end}`, one])).values()];
}

function inCode(text: string | Buffer): Buffer {
  return Buffer.concat([Buffer.from('var a="'), Buffer.from(text), Buffer.from('";more()')]);
}

/** Tells whether inspect finds a value that it has. */
function isFoundAlive(value: string, text: Uint8Array): boolean {
  const owner = { role: 'secret', variable: 'FARE_SIGNING_KEY', reach: 'server' } as const;
  const plan = planForValues([{ owner, value, isThorough: true }]);
  return new ArtifactSearch(plan).valuesIn(text).some((hit) => !hit.owner.part);
}

describe.each(Object.entries(randomValues))('a %s', (_, values) => {
  test.each(encoders)('is recognised in %s, and where it is', (_, encode) => {
    fc.assert(
      fc.property(values, (value) => {
        const text = inCode(encode(value));
        if (!isFoundAlive(value, text)) return;
        const found = recognised('kernel', value, text);
        // A value that is not kept is a case of its own.
        if (found) expect(found.filter((one) => one.found === undefined)).not.toEqual([]);
      }),
      // A text that two syntaxes decode differently is rare, and allowed below: `npm run fuzz` tries others.
      { numRuns: Math.ceil(runs(20) / 8), ...(!isThorough && { seed: 20261202 }) },
    );
  });
});

/** Pairs of encoders in which some values are lost: a text that several syntaxes could decode. The docs have the number. */
const MOST_LOST = 0.001;

test('of any two encoders, one in the other: what is found alive is recognised', { timeout: 240_000 }, () => {
  let [alive, lost] = [0, 0];
  for (const [name, values] of Object.entries(randomValues))
    for (const [index, value] of fc.sample(values, { numRuns: encoders.length, seed: name.length }).entries()) {
      const [, outer] = encoders[index] as (typeof encoders)[number];
      for (const [, inner] of encoders) {
        const once = inner(value);
        let text: Buffer;
        try {
          text = inCode(outer(Buffer.isBuffer(once) ? once.toString('latin1') : once));
        } catch {
          // A style sheet cannot have every text.
          continue;
        }
        if (!entryOf(value) || !isFoundAlive(value, text)) continue;
        alive++;
        if (!recognised('kernel', value, text)?.some((one) => one.found === undefined)) lost++;
      }
    }
  expect(alive).toBeGreaterThan(5000);
  expect(lost / alive).toBeLessThan(MOST_LOST);
});

test('the kernel and its twin in JavaScript find the same, however the chunks are cut', () => {
  const all = fc.oneof(...Object.values(randomValues));
  fc.assert(
    fc.property(all, fc.constantFrom(...encoders), fc.integer({ min: 1, max: 200 }), (value, [, encode], chunk) => {
      const text = inCode(encode(value));
      const [kernel, twin] = (['kernel', 'twin'] as const).map((make) => recognised(make, value, text, chunk));
      const wholes = (found: typeof kernel) =>
        [...new Set(found?.filter((one) => one.found === undefined).map(({ start, end }) => `${start}-${end}`))].sort();
      expect(wholes(kernel)).toEqual(wholes(twin));
    }),
    { numRuns: runs(200) },
  );
});

describe('where a recorded value is', () => {
  const value = 'kX7qv9TzR2mWb4Yc8Lp1Hd6N0aJ5sG3e';
  const places = (text: string) =>
    recognised('kernel', value, Buffer.from(text))?.map(({ start, end, encoding, found }) => ({
      text: text.slice(start, end),
      encoding,
      found,
    }));

  test.each([
    ['plain', `x = '${value}';`, [{ text: value, encoding: ['plain'] }]],
    ['in a run', `id_${value}_x`, [{ text: value, encoding: ['plain'] }]],
    [
      'twice',
      `"${value}","${value}"`,
      [
        { text: value, encoding: ['plain'] },
        { text: value, encoding: ['plain'] },
      ],
    ],
    ['half', `x = '${value.slice(0, 22)}';`, [{ text: value.slice(0, 19), encoding: ['plain'], found: 19 }]],
    ['less than a window', `x = '${value.slice(0, 11)}';`, []],
    ['two characters changed', `x = '${value.slice(0, 11)}-${value.slice(12, 23)}-${value.slice(24)}';`, []],
    ['not at all', 'const answer = "aB3dE5gH7jK9mN1pQ3rS5tU7vW9xY1z0";', []],
    ['base64', `"${btoa(value)}"`, [{ text: btoa(value).replaceAll('=', ''), encoding: ['base64'] }]],
  ])('%s', (_, text, expected) => {
    expect(places(text)).toEqual(expected.map((one) => ({ found: undefined, ...one })));
  });

  test('base64 in lines, also as a string escapes them', () => {
    const lines = (
      Buffer.from(value.repeat(3))
        .toString('base64')
        .match(/.{1,64}/g) ?? []
    ).join('\n');
    for (const text of [lines, lines.replaceAll('\n', '\\n'), lines.replaceAll('\n', '\\r\\n')])
      expect(recognised('kernel', value, Buffer.from(text))).toMatchObject(
        expect.arrayContaining([expect.objectContaining({ encoding: ['base64-lines'] })]),
      );
  });

  test('in runs of base64 that are longer than a stretch, at any place', () => {
    for (const before of [0, 700, 1000, 1023, 5000]) {
      const text = Buffer.from(`${'q'.repeat(before)}${value}${'q'.repeat(3000)}`).toString('base64');
      expect(recognised('kernel', value, Buffer.from(text))?.length).toBeGreaterThan(0);
    }
  });

  test('thousands of places in one chunk', () => {
    const text = Buffer.from(`"${value}" `.repeat(20_000));
    const search = new HistorySearch(past(entryOf(value) as ValueEntry));
    const matcher = wasmGrams([], 1 << 20, undefined, undefined, search.windows);
    let hits = 0;
    matcher.start();
    matcher.window.set(text);
    matcher.feed(text.length, () => hits++);
    expect(hits).toBe(20_000);
  });
});

test('values of several sections are recognised in one search', () => {
  const other = { key: Buffer.alloc(32, 9), keys: sectionKeys(Buffer.alloc(32, 9)) };
  const values = ['kX7qv9TzR2mWb4Yc8Lp1Hd6N0aJ5sG3e', '8f2c71d05be94a36c7d1e08b5f3a92647c1d0e5b'] as const;
  const made = makeEntry(other.keys, {
    variable: 'A',
    stage: 'production',
    reach: 'server',
    day: '2026-08-01',
    value: new Secret(values[1]),
  });
  const sections = [
    { key, keys, entries: new Map([['1', entryOf(values[0]) as ValueEntry]]) },
    { ...other, entries: new Map([['2', made as ValueEntry]]) },
  ];
  const search = new HistorySearch(pastValues(sections, []));
  expect(search.in(Buffer.from(values.join(' '))).map(({ value }) => value.variable)).toEqual([
    'FARE_SIGNING_KEY',
    'A',
  ]);
  expect(byteWindows([])).toBeUndefined();
});
