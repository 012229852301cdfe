import { describe, expect, test } from 'vitest';
import { isCommonSetting, isOrdinaryWord, weakness } from '../../../src/core/needles/weak.js';

describe('a value is not searched for', () => {
  test.each<[value: string, because: string | undefined]>([
    ['abcd5', 'shorter than 6 bytes'],
    ['abcd56', undefined],
    [' abcd5 ', 'shorter than 6 bytes'],
    // Bytes count, not characters.
    ['äöü1', undefined],
    ['1234567890', 'a short number'],
    ['12345678901', 'a short number'],
    ['123456789012', undefined],
    ['1.2.3.4:5678', 'a short number'],
    ['+1 234 567 890', undefined],
    ['1234567890a', undefined],
    ['abcabcabc', 'fewer than four different characters'],
    ['abcdabcd', undefined],
    ['localhost', 'an ordinary word'],
    [' LocalHost ', 'an ordinary word'],
    ['tickets', 'a short word'],
    ['Tickets', 'a short word'],
    ['TICKETS', 'a short word'],
    ['tIckets', undefined],
    ['ticketss', undefined],
  ])('%j: %s', (value, because) => expect(weakness(value)).toBe(because));
});

test.each([
  ['localhost:3000', true],
  ['http://127.0.0.1:5432/', true],
  ['https://[::1]', true],
  ['UTC', true],
  ['localhost:300000', false],
  ['localhost.saltmarsh.example', false],
  ['http://localhost:3000/path', false],
])('%s is a common setting: %s', (value, is) => expect(isCommonSetting(value)).toBe(is));

test.each([
  ['Production', true],
  ['productions', false],
])('%s is an ordinary word: %s', (value, is) => expect(isOrdinaryWord(value)).toBe(is));
