import { describe, expect, test } from 'vitest';
import { findPastValue, pastValues } from '../../../src/core/receipt/past.js';
import { fingerprint, makeReceipt, type Receipt } from '../../../src/core/receipt/receipt.js';
import { Secret } from '../../../src/core/secrets/secret.js';

const key = new Uint8Array(32).fill(7);
const print = (text: string, name = 'URL') => fingerprint(key, name, new Secret(text));

/** The receipt of a build on a day, with these values. */
function built(day: number, values: Record<string, string>): Receipt {
  return makeReceipt({
    ...{ bundle: 'desk', stage: 'production', builtAt: `2026-11-${day}T08:00:00.000Z`, adder: '0.1.0', command: ['x'] },
    values: Object.entries(values).map(([name, text]) => ({
      ...{ name, reach: 'public', readAs: name, fingerprint: print(text, name), places: [] },
    })),
    digests: new Map(),
  });
}

const old = 'https://old.saltmarsh.example';
const older = 'https://older.saltmarsh.example';
const now = new Secret('https://now.saltmarsh.example');
const receipts = [
  built(28, { URL: 'https://now.saltmarsh.example', NOTE: 'a note of today' }),
  built(27, { URL: old }),
  built(26, { URL: older }),
  built(25, { URL: old }),
];

test('past values are those of receipts that differ from the current one, with their newest build', () => {
  expect([...pastValues(receipts, 'URL', now, key)]).toEqual([
    [print(old), '2026-11-27T08:00:00.000Z'],
    [print(older), '2026-11-26T08:00:00.000Z'],
  ]);
});

test('a variable that no receipt has has no past values', () => {
  expect(pastValues(receipts, 'OTHER', now, key).size).toBe(0);
});

describe('a past value is found', () => {
  const past = pastValues(receipts, 'URL', now, key);
  const find = (text: string) => findPastValue(text, 'URL', past, key);
  const place = { builtAt: '2026-11-27T08:00:00.000Z', text: old };

  test.each([
    [`f("${old}")`, 3],
    [`f('${old}')`, 3],
    [`f(\`${old}\`)`, 3],
    [`f("${old}/fares")`, 3],
    [`f("${old}?a=1")`, 3],
    [`f("${old}#top")`, 3],
    [`f("${old}&a=1")`, 3],
    [`f("${old}:8080")`, 3],
    [`f(\`${old}\${path}\`)`, 3],
    [`f("a\\"b", "${old}")`, 11],
    [`f("it's", "${old}")`, 11],
  ])('in %s', (text, start) => expect(find(text)).toEqual({ ...place, start }));

  test.each([
    ['outside of a string', `// ${old}`],
    ['with something before it', `f("x${old}")`],
    ['with something after it that is no separator', `f("${old}x")`],
    ['in a string over two lines', `f("\n${old}")`],
    ['of another variable', 'f("a note of today")'],
  ])('but not %s', (_, text) => expect(find(text)).toBeUndefined());

  test.each([
    ['old-01', true],
    ['old-1', false],
  ])('%s, of six characters or fewer: %s', (text, isFound) => {
    const known = new Map([[print(text), '2026-11-27T08:00:00.000Z']]);
    expect(findPastValue(`f("${text}")`, 'URL', known, key) !== undefined).toBe(isFound);
  });
});
