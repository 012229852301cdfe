import { expect, test } from 'vitest';
import { isBehindItsName, receiptName } from '../../../src/core/receipt/receipt-name.js';

const builtAt = '2026-11-24T04:10:33.000Z';

test.each([
  ['no receipt before it', '', '2026-11-24T04-10-33.000Z.production.json'],
  ['an earlier one', '2026-11-24T04-10-32.999Z.staging.json', '2026-11-24T04-10-33.000Z.production.json'],
  ['one of the same time', '2026-11-24T04-10-33.000Z.staging.json', '2026-11-24T04-10-33.001Z.production.json'],
  ['one of a later time', '2027-01-01T00-00-00.999Z.staging.json', '2027-01-01T00-00-01.000Z.production.json'],
  ['a file of another name', 'notes.json', '2026-11-24T04-10-33.000Z.production.json'],
])('a receipt with %s is named after it', (_, last, name) => {
  expect(receiptName(builtAt, 'production', last)).toBe(name);
});

test.each([
  ['2026-11-24T04-10-33.000Z', false],
  ['2026-11-24T04-10-34.000Z', false],
  ['2026-11-24T04-10-34.001Z', true],
  ['2026-11-24T04-10-32.000Z', false],
  ['other', false],
])('a receipt of another time than its name %s: %s', (name, isBehind) => {
  expect(isBehindItsName(`.adder/receipts/desk/${name}.production.json`, builtAt)).toBe(isBehind);
});
