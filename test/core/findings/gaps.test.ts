import { describe, expect, test } from 'vitest';
import { rulesOf } from '../../../src/core/contract/rules.js';
import { findingsReport } from '../../../src/core/report/findings.js';
import { contractOf } from '../../support/contract.js';

const rules = (until: string) =>
  rulesOf(
    contractOf(`adder: 1
stages: { production: { layers: [.env] } }
accept: [{ unread: dist/*.zip, because: the printer encrypts it, until: ${until} }]
`),
  );
const of = (path: string, until = '2027-03-01', groups: string[] = []) =>
  findingsReport(
    { command: 'inspect', stage: 'production' },
    [
      {
        findings: [],
        groups,
        coverage: { files: 1, members: 0, bytes: 9, unread: [{ path, inside: ['a.txt'], because: 'is encrypted' }] },
        verdict: { asked: ['nothingLeaked'], doubts: [] },
      },
    ],
    rules(until),
    '2026-12-01',
  );
const codes = (...args: Parameters<typeof of>) => of(...args).findings.map(({ message }) => message);

describe('a file that cannot be read, and that the contract accepts', () => {
  test('leaves the answer yes, and is listed as skipped with its reason', () => {
    const { answers, coverage } = of('dist/manual.zip');
    expect([answers?.nothingLeaked.answer, coverage]).toEqual([
      'yes',
      {
        files: 1,
        members: 0,
        bytes: 9,
        unread: [],
        skipped: [
          {
            path: 'dist/manual.zip',
            inside: ['a.txt'],
            because: 'is encrypted, which is accepted until 2027-03-01: the printer encrypts it',
          },
        ],
      },
    ]);
  });

  test('is no other file', () => expect(of('dist/other.7z').answers?.nothingLeaked.answer).toBe('not known'));

  test('is one on its last day', () => expect(of('dist/a.zip', '2026-12-01').coverage?.unread).toEqual([]));

  test('counts again after it, and the acceptance is a finding', () => {
    expect(of('dist/a.zip', '2026-11-30').answers?.nothingLeaked.answer).toBe('not known');
    expect(codes('dist/a.zip', '2026-11-30', ['leak/'])).toEqual([
      'the acceptance of unread files at dist/*.zip expired on 2026-11-30',
    ]);
  });

  test('is missed where everything was inspected', () => {
    expect(codes('dist/other.7z', '2027-03-01', ['leak/'])).toEqual([
      'the acceptance of unread files at dist/*.zip matches none',
    ]);
    expect(codes('dist/a.zip', '2027-03-01', ['leak/'])).toEqual([]);
    expect(codes('dist/other.7z', '2027-03-01', ['value/'])).toEqual([]);
  });
});
