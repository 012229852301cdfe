import fc from 'fast-check';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { cells, wrap } from '../../src/core/report/layout.js';
import { byteSize, count, displayText, localTime } from '../../src/core/text/display.js';
import { excerptOf, renderFrame } from '../../src/core/text/frame.js';
import { editDistance, isSlip, joinWords, nearest, suggest } from '../../src/core/text/nearest.js';
import { utf16Length } from '../../src/core/text/positions.js';
import { firstInvalidUtf8 } from '../../src/core/text/utf8.js';

describe('nearest names', () => {
  test.each([
    ['', '', 0],
    ['stage', 'stage', 0],
    ['satge', 'stage', 1],
    ['Stage', 'stage', 0],
    ['stag', 'stage', 1],
    ['abc', 'xyz', 3],
  ])('%j to %j is %i', (a, b, distance) => expect(editDistance(a, b)).toBe(distance));

  test('the most similar first, without distant ones', () => {
    expect(nearest('prod', ['development', 'production'])).toEqual(['production']);
    expect(nearest('FERRY_API_ULR', ['FERRY_API_URL', 'FERRY_APP_URL', 'SEASON'])).toEqual([
      'FERRY_API_URL',
      'FERRY_APP_URL',
    ]);
    expect(nearest('FERRY_URL', ['FERRY_API_URL', 'SEASON'])).toEqual(['FERRY_API_URL']);
    expect(suggest('x', ['staging'])).toBe('known: staging');
    expect(suggest('x', [])).toBe('there are none');
    expect(joinWords(['a', 'b', 'c'], 'or')).toBe('a, b or c');
  });
});

describe('what a terminal gets', () => {
  test('control characters and direction marks do not pass', () => {
    expect(displayText('a\x1b[31mb\u202ec\td\r\n')).toBe('a\\x1b[31mb\\u202ec d\\x0d\\x0a');
  });

  test('sizes and counts', () => {
    expect([byteSize(0), byteSize(1), byteSize(999), byteSize(1500), byteSize(12_345_678)]).toEqual([
      '0 bytes',
      '1 byte',
      '999 bytes',
      '1.5 kB',
      '12 MB',
    ]);
    expect([count(1, 'file'), count(2500, 'file')]).toEqual(['1 file', '2,500 files']);
  });

  test('the caret is under its place, after wide characters and tabs', () => {
    expect(renderFrame(excerptOf(12, '\tA=船船bad', 6, 3), cells)).toEqual(['12 |  A=船船bad', '            ^^^']);
  });

  test('a long line is cut around the place', () => {
    const [line, caret] = renderFrame(excerptOf(1, `${'x'.repeat(500)}HERE${'y'.repeat(500)}`, 501, 4, 84), cells);
    expect(line.length).toBe(84 + '1 | '.length);
    expect(line.slice(caret.indexOf('^'), caret.lastIndexOf('^') + 1)).toBe('HERE');
    expect(line).toMatch(/^1 \| …x+HEREy+…$/);
  });

  test('wrapping keeps words whole', () =>
    expect(wrap('a bb ccc ddddddddd e', 6)).toEqual(['a bb', 'ccc', 'ddddddddd', 'e']));
});

test.each<[bytes: number[], at: number]>([
  [[...Buffer.from('aä⛴😀')], -1],
  [[0x61, 0x80], 1],
  [[0xc0, 0xaf], 0],
  [[0x61, 0xe2, 0x9b], 1],
  [[0xed, 0xa0, 0x80], 0],
  [[0xf4, 0x90, 0x80, 0x80], 0],
  [[0xf5, 0x80, 0x80, 0x80], 0],
])('the first byte of %j that is not UTF-8 is at %i', (bytes, at) =>
  expect(firstInvalidUtf8(Uint8Array.from(bytes))).toBe(at),
);

describe('local times', () => {
  afterEach(() => vi.unstubAllEnvs());

  test.each([
    ['UTC', '2026-11-24 23:40 UTC'],
    ['Europe/Berlin', '2026-11-25 00:40 +01:00'],
    ['America/St_Johns', '2026-11-24 20:10 -03:30'],
    ['Asia/Kolkata', '2026-11-25 05:10 +05:30'],
  ])('in %s', (zone, shown) => {
    vi.stubEnv('TZ', zone);
    expect(localTime('2026-11-24T23:40:11.000Z')).toBe(shown);
    expect(localTime('2026-11-24T23:40:11.000Z', '2026-11-24T23:41:00.000Z')).toBe(shown);
    expect(localTime('2026-11-24T23:40:11.000Z', '2026-11-24T23:40:59.000Z')).toBe(shown.replace(/(:\d\d) /, '$1:11 '));
  });
});

test('columns far out in a line count as those of a text do, whatever stands before them', () => {
  const signs = fc.constantFrom('a', 'ä', '⛴', '😀', 'a'.repeat(4090), 'x'.repeat(130));
  fc.assert(
    fc.property(fc.array(signs, { maxLength: 12 }), fc.array(signs, { maxLength: 4 }), (before, after) => {
      const [start, end] = [before, after].map((all) => Buffer.from(all.join('')));
      const text = Buffer.concat([start as Buffer, end as Buffer]);
      expect(utf16Length(text, 0, text.length)).toBe(text.toString().length);
      expect(utf16Length(text, start?.length ?? 0, text.length)).toBe(after.join('').length);
    }),
  );
});

test.each([
  ['FARE_SIGNIN_KEY', 'FARE_SIGNING_KEY', true],
  ['FERRYAPI_URL', 'FERRY_API_URL', true],
  ['MAP_TILSE_KEY', 'MAP_TILES_KEY', true],
  ['API_ULR', 'API_URL', true],
  ['API_URI', 'API_URL', false],
  ['MY_AB', 'MY_BA', false],
  ['DB_HOST', 'DB_PORT', false],
  ['LEDGER_DATABASE_HOST', 'LEDGER_DATABASE_PORT', false],
  ['API_KEY_1', 'API_KEY_2', false],
  ['API1_KEY', 'API2_KEY', false],
  ['FERRY_API_URL', 'FERRY_API_URL', false],
  ['FERRY_URL', 'FERRY_API_URL', false],
])('%s is a slip of %s: %s', (given, name, is) => expect(isSlip(given, name)).toBe(is));
