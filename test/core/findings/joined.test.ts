import { describe, expect, test } from 'vitest';
import { type Change, changesWhere, howTo, type Since } from '../../../src/core/findings/change.js';
import { joinCoverage } from '../../../src/core/findings/check.js';
import { type CheckedFile, type Contents, joinContents } from '../../../src/core/findings/contents.js';
import { finding, type RawFinding } from '../../../src/core/findings/finding.js';
import { placeOfWord, placeText } from '../../../src/core/findings/place.js';
import { withoutRepeats } from '../../../src/core/findings/repeats.js';

const file = (path: string, bytes: number): CheckedFile => ({ path, bytes, members: 0, for: 'browser' });
const contents = (more: Partial<Contents>): Contents => ({ variables: [], files: [], values: [], ...more });
const value = (variable: string, path: string, places = 1) => ({ variable, path, inside: [], places });

describe('contents of several checks', () => {
  test('are nothing if there are none', () => {
    expect(joinContents([])).toBeUndefined();
  });

  test('list each variable, file and value once', () => {
    const one = contents({
      variables: [{ name: 'A', reach: 'public' }],
      files: [file('a.js', 1)],
      values: [value('A', 'a.js')],
    });
    expect(joinContents([one, one])).toEqual(one);
  });

  test('keep values of one variable in different files apart', () => {
    const all = joinContents([contents({ values: [value('A', 'a.js')] }), contents({ values: [value('A', 'b.js')] })]);
    expect(all?.values.map(({ path }) => path)).toEqual(['a.js', 'b.js']);
  });

  test('list the largest file first, and equal ones by path', () => {
    const all = joinContents([contents({ files: [file('b', 1), file('c', 9)] }), contents({ files: [file('a', 1)] })]);
    expect(all?.files.map(({ path }) => path)).toEqual(['c', 'a', 'b']);
  });
});

describe('coverage of several checks', () => {
  const coverage = { files: 1, members: 2, bytes: 3, unread: [{ path: 'a', inside: [], because: 'x' }] };
  const skipped = [{ path: 'b', because: 'cache' }] as never;
  const notSearched = [{ variable: 'A', because: 'short' }] as never;

  test('is nothing if there is none', () => {
    expect(joinCoverage([])).toBeUndefined();
  });

  test('adds numbers, and lists an unread path once', () => {
    expect(joinCoverage([coverage, coverage])).toEqual({ ...coverage, files: 2, members: 4, bytes: 6 });
  });

  test('lists skipped paths and values that were not searched for, if there are some', () => {
    const joined = joinCoverage([coverage, { ...coverage, skipped, notSearched }]);
    expect(joined).toMatchObject({ skipped, notSearched });
    expect(Object.keys(joinCoverage([coverage]) ?? {})).toEqual(['files', 'members', 'bytes', 'unread']);
  });
});

describe('changes since a build', () => {
  const change = (variable: string): Change => ({
    ...{ variable, reach: 'public', change: 'changed', action: 'rebuild', because: 'inlined', files: [] },
  });
  const since = (bundle: string, ...variables: string[]): Since => ({
    ...{ bundle, stage: 'production', builtAt: '2026-11-27T08:00:00.000Z', rebuild: ['adder', 'with', 'production'] },
    ...{ reload: ['adder', 'emit', 'runtime'], changes: variables.map(change) },
  });

  test('are those that the condition holds for, without builds that have none', () => {
    const all = [since('a', 'A', 'B'), since('b', 'C')];
    const some = changesWhere(all, ({ variable }, { bundle }) => variable === 'B' && bundle === 'a');
    expect(some).toEqual([{ ...all[0], changes: [change('B')] }]);
  });

  test.each([
    ['nothing', 'nothing to do'],
    ['reload', 'write the values file, and deploy it: adder emit runtime'],
    ['redeploy', 'deploy the current build of a'],
    ['rebuild', 'rebuild: adder with production'],
    ['restart', 'set the value on the host, and restart the server'],
  ] as const)('%s means: %s', (action, remedy) => {
    expect(howTo(action, since('a'))).toBe(remedy);
  });
});

describe('a place', () => {
  test.each([
    [{ path: 'a.zip', inside: [] }, 'a.zip'],
    [{ path: 'a.zip', inside: ['b.js', 'c.js'] }, 'a.zip » b.js » c.js'],
    [{ path: 'a', inside: [], line: 3 }, 'a:3'],
    [{ path: 'a', inside: ['b'], line: 3, column: 7 }, 'a » b:3:7'],
  ])('%j is %s', (place, text) => expect(placeText(place)).toBe(text));

  test('of a word ends after it, with offsets only if they are known', () => {
    const start = { line: 2, column: 5 };
    const place = { path: 'a', inside: [], line: 2, column: 5, endLine: 2, endColumn: 9 };
    expect(placeOfWord({ path: 'a' }, start, 'FARE')).toEqual(place);
    expect(placeOfWord({ path: 'a' }, { ...start, offset: 11 }, 'FARE')).toEqual({ ...place, offset: 11, length: 4 });
  });
});

describe('findings of several stages', () => {
  const of = (variable: string, stage?: string): RawFinding => ({
    ...finding('value/undeclared', 'undeclared' as never, { variable } as never),
    ...(stage && { stage }),
  });

  test('with the same facts are one, without a stage', () => {
    expect(withoutRepeats([of('A', 'staging'), of('A', 'production'), of('B', 'staging')])).toEqual([
      of('A'),
      of('B', 'staging'),
    ]);
  });

  test('keep their stage if it is the same', () => {
    expect(withoutRepeats([of('A', 'staging'), of('A', 'staging')])).toEqual([of('A', 'staging')]);
  });
});

describe('a finding as data', () => {
  test('has the facts that are known, and shares some with every finding', () => {
    const facts = {
      variable: 'A',
      stage: 'production',
      searched: ['.env'],
      setIn: [],
      near: undefined,
      broken: undefined,
    };
    expect(finding('value/missing', 'unset', facts as never)).toEqual({
      ...{ code: 'value/missing', variant: 'unset', variable: 'A', stage: 'production' },
      facts: { variable: 'A', stage: 'production', searched: ['.env'], setIn: [] },
    });
  });

  test('has what is given with it instead of its facts', () => {
    const facts = { variable: 'A', stage: 'production', searched: [], setIn: [] };
    expect(finding('value/missing', 'unset', facts as never, { stage: 'staging' }).stage).toBe('staging');
  });
});
