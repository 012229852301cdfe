import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { quoteEnvValue, setEnvValue } from '../../../src/core/envfile/write.js';
import { runs } from '../../support/runs.js';

const set = (text: string, name: string, value: string) =>
  Buffer.from(setEnvValue(parseEnvFile(Buffer.from(text)), name, value)).toString();

describe('changes one value, keeps everything else', () => {
  test.each<[title: string, text: string, value: string, result: string]>([
    ['in its place', '# x\n\tA = b # why\nC=d', 'e', '# x\n\tA = e # why\nC=d'],
    ['where it is quoted', 'A="b\nc" # why\n', 'e', 'A=e # why\n'],
    ['where it is empty', 'A= # why\n', 'e', 'A=e # why\n'],
    ['the line that wins', 'A=1\nA=2\n', '3', 'A=1\nA=3\n'],
    ['at the end', 'C=d\n', 'e', 'C=d\nA=e\n'],
    ['behind a last line without an end', 'C=d', 'e', 'C=d\nA=e\n'],
    ['in a CRLF file', 'C=d\r\n', 'e', 'C=d\r\nA=e\r\n'],
    ['in an empty file', '', 'e', 'A=e\n'],
  ])('%s', (_, text, value, result) => expect(set(text, 'A', value)).toBe(result));
});

test.each([
  ['https://api.saltmarsh.example/v1', 'https://api.saltmarsh.example/v1'],
  ['', ''],
  ['a b', "'a b'"],
  ['$HOME', "'$HOME'"],
  ["it's `$5` \\", '"it\'s \\`\\$5\\` \\\\"'],
  ['a\r\n', '"a\\r\\n"'],
])('%j is written as %s', (value, text) => expect(quoteEnvValue(value)).toBe(text));

test.each(['a\0b', '\ud800'])('%j cannot be written', (value) =>
  expect(() => quoteEnvValue(value)).toThrow(RangeError),
);

test('any value reads back, and no other one changes', () => {
  const value = fc.oneof(
    fc.string({ unit: 'binary' }),
    fc
      .array(fc.constantFrom('a', '"', "'", '$', '{', '}', '`', '\\', '\n', '\r', '#', ' ', '='))
      .map((signs) => signs.join('')),
  );
  const writable = value.filter((text) => !text.includes('\0') && text.isWellFormed());
  fc.assert(
    fc.property(
      fc.dictionary(fc.constantFrom('A', 'B', 'C'), writable),
      fc.constantFrom('A', 'B', 'C'),
      writable,
      (values, name, text) => {
        const before = Object.entries(values).map(([key, one]) => `${key}=${quoteEnvValue(one)} # c\r\n`);
        const file = parseEnvFile(setEnvValue(parseEnvFile(Buffer.from(before.join(''))), name, text));
        expect(file.problems).toEqual([]);
        const read = Object.fromEntries(
          file.entries.map(({ name: key, value: parts }) => [
            key,
            parts.map((part) => part.kind === 'text' && part.text).join(''),
          ]),
        );
        expect(read).toEqual({ ...values, [name]: text });
      },
    ),
    { numRuns: runs(2000) },
  );
});
