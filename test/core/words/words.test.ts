import { afterEach, describe, expect, test, vi } from 'vitest';
import { codes } from '../../../src/core/findings/codes.js';
import { finding } from '../../../src/core/findings/finding.js';
import { judge, noRules } from '../../../src/core/findings/judge.js';
import { wordedFindings } from '../../../src/core/report/worded.js';
import { type Code, catalogue } from '../../../src/core/words/catalogue.js';
import { describe as words } from '../../../src/core/words/describe.js';
import { commandText, remedyText, run, steps } from '../../../src/core/words/remedy.js';
import type { CodeWords } from '../../../src/core/words/words.js';

afterEach(() => vi.restoreAllMocks());

const some = [
  finding('contract/undecided', 'unread', { names: ['A', 'B'] }),
  finding('value/missing', 'unset', {
    ...{ variable: 'URL', stage: 'production', file: '.env', inProcess: true, isShared: true, form: 'url' },
    ...{ searched: ['.env'], setIn: [] },
  }),
  finding('code/unknown-name', 'undeclared', { name: 'VITE_TITEL', near: ['VITE_TITLE'] }),
  finding('repo/misnamed', 'file', { layer: '.env', found: '.evn', name: '.env' }),
  finding('leak/build-machine', 'directory', {}, { bundle: 'desk' }),
];

describe('fingerprints', () => {
  test('stay when every text of the catalogue is written anew', () => {
    const before = wordedFindings(some, noRules, '', []).findings;
    for (const { variants } of Object.values(catalogue) as CodeWords[])
      for (const variant of Object.keys(variants))
        vi.spyOn(variants as Record<string, () => object>, variant).mockReturnValue({ message: 'x', remedy: 'y' });
    const after = wordedFindings(some, noRules, '', []).findings;
    expect(after.every(({ message, remedy }) => message === 'x' && remedy === 'y')).toBe(true);
    expect(after.map(({ fingerprint }) => fingerprint)).toEqual(before.map(({ fingerprint }) => fingerprint));
  });

  test('stay when a fact changes that does not identify the finding, and differ by one that does', () => {
    const print = (of: Parameters<typeof judge>[0][number]) => judge([of], noRules, '', []).findings[0]?.fingerprint;
    const old = (builtAt: string, variable: string) =>
      print(finding('stale/past-value', 'on-site', { variable, rebuild: [builtAt] }, { bundle: 'desk' }));
    expect(old('a', 'URL')).toBe(old('b', 'URL'));
    expect(old('a', 'URL')).not.toBe(old('a', 'TITLE'));
  });
});

test('every code has a level, words for at least one variant, and identifying facts', () => {
  expect(Object.keys(codes).sort()).toEqual(Object.keys(catalogue).sort());
  for (const code of Object.keys(codes) as Code[]) {
    expect(Object.keys(catalogue[code].variants).length, code).toBeGreaterThan(0);
    expect(codes[code].identity.length, code).toBeGreaterThan(0);
    // A line or a count changes while the problem stays.
    expect(
      codes[code].identity.filter((name) => /line|column|count|number|bytes|builtAt/.test(name)),
      code,
    ).toEqual([]);
  }
});

test('a finding of a variant that does not exist is an error, not an empty text', () => {
  expect(() => words({ code: 'leak/name', variant: 'toString', facts: {} })).toThrow('leak/name has no variant');
});

test('a command of a layer is named before its problem', () => {
  const found = finding('file/syntax', 'unclosed', {}, { layer: 'command ./values-of' });
  expect(words(found).message).toBe('command ./values-of: this quote is never closed');
});

describe('a remedy', () => {
  test('is text and commands, which are quoted when they are printed', () => {
    const remedy = steps`rebuild: ${run('node', '-e', 'f("a b")')}, then ${'check'}`;
    expect(remedy).toEqual([{ advise: 'rebuild: ' }, { run: ['node', '-e', 'f("a b")'] }, { advise: ', then check' }]);
    expect(remedyText(remedy)).toBe(`rebuild: node -e 'f("a b")', then check`);
    expect(commandText(['a', "b'c"])).toBe(`a 'b'\\''c'`);
  });

  test('has the edits that fix the finding', () => {
    const fix = [{ path: 'src/a.ts', start: 3, end: 5, text: 'B' }];
    const { remedy } = words({ ...(some[2] as (typeof some)[0]), fix });
    expect(remedy.at(-1)).toEqual({ edit: fix[0] });
    expect(remedyText(remedy)).toBe('did you mean VITE_TITLE? Otherwise declare VITE_TITEL in the contract');
  });
});
