import { describe, expect, test } from 'vitest';
import type { Acceptance } from '../../../src/core/findings/acceptance.js';
import { finding, type RawFinding } from '../../../src/core/findings/finding.js';
import { type Judged, judge, noRules, type Rules } from '../../../src/core/findings/judge.js';

const TODAY = '2026-11-30';

const raw = (variable: string, path = 'dist/a.js', more: Partial<RawFinding> = {}): RawFinding => ({
  ...finding('value/missing', 'unset', { variable, stage: 'production', searched: ['.env'], setIn: [] } as never, {
    variable,
  }),
  place: { path, inside: [], line: 1, column: 1 },
  ...more,
});

const acceptance = (more: Partial<Acceptance> = {}): Acceptance => ({
  finding: 'value/missing',
  because: 'known',
  until: TODAY,
  at: { line: 7, column: 3, offset: 90 },
  ...more,
});

const judged = (found: readonly RawFinding[], rules: Partial<Rules> = {}, groups = ['value/']): Judged =>
  judge(found, { ...noRules, path: 'adder.yaml', ...rules }, TODAY, groups);

const codesOf = ({ findings }: Judged) => findings.map(({ code }) => code);

describe('an acceptance', () => {
  test.each([
    ['2026-12-01', []],
    ['2026-11-30', []],
    ['2026-11-29', ['contract/expired-acceptance', 'value/missing']],
  ])('until %s gives, on 2026-11-30: %j', (until, codes) => {
    expect(codesOf(judged([raw('A')], { accept: [acceptance({ until })] })).sort()).toEqual(codes);
  });

  test.each<[Partial<Acceptance>, number]>([
    [{}, 2],
    [{ variable: 'A' }, 1],
    [{ where: 'dist/**' }, 1],
    [{ where: 'dist/**', variable: 'B' }, 0],
    [{ finding: 'value/malformed' }, 0],
  ])('%j accepts %i of two findings', (which, number) => {
    const all = [raw('A'), raw('B', 'src/b.js')];
    const { accepted = [], summary } = judged(all, { accept: [acceptance(which)] });
    expect([accepted.length, summary.accepted]).toEqual([number, number]);
  });

  test('accepts a finding by its fingerprint', () => {
    const [first] = judged([raw('A')]).findings;
    const accept = [acceptance({ fingerprint: first?.fingerprint ?? '' })];
    expect(judged([raw('A'), raw('B')], { accept }).findings.map(({ variable }) => variable)).toEqual(['B']);
  });

  test('has its reason and its last day beside the finding', () => {
    expect(judged([raw('A')], { accept: [acceptance()] }).accepted).toMatchObject([
      { variable: 'A', because: 'known', until: TODAY },
    ]);
  });

  test('that nothing needs is a finding at its place', () => {
    const { findings } = judged([], { accept: [acceptance()] });
    expect(findings).toMatchObject([
      { code: 'contract/unused-acceptance', place: { path: 'adder.yaml', line: 7, column: 3 } },
    ]);
  });

  test.each([
    [['value/'], 1],
    [['leak/'], 0],
    [[], 0],
  ])('of codes that were checked as %j: %i is unused', (groups, number) => {
    expect(judged([], { accept: [acceptance()] }, groups).findings).toHaveLength(number);
  });

  test('that is expired and was not checked is a finding only if it would apply', () => {
    const accept = [acceptance({ until: '2026-11-29' })];
    expect(codesOf(judged([raw('A')], { accept }, []))).toContain('contract/expired-acceptance');
    expect(codesOf(judged([], { accept }, []))).toEqual([]);
  });

  test('leaves no list when nothing is accepted', () => {
    expect(judged([raw('A')])).not.toHaveProperty('accepted');
  });
});

describe('the level of a finding', () => {
  test.each<[RawFinding, Rules['levels'], string]>([
    [raw('A'), {}, 'error'],
    [raw('A', 'a', { level: 'note' }), {}, 'note'],
    [raw('A', 'a', { level: 'note' }), { 'value/missing': 'warning' }, 'warning'],
    [raw('A'), { 'value/malformed': 'note' }, 'error'],
  ])('is that of the contract, of the finding or of the code', (one, levels, level) => {
    const { findings, summary } = judged([one], { levels });
    expect([findings[0]?.level, summary[level as 'error']]).toEqual([level, 1]);
  });
});

describe('the order of findings', () => {
  const placed = (path: string, line: number, column: number) =>
    raw('A', path, { place: { path, inside: [], line, column } });

  test('is by path, line and column', () => {
    const all = [placed('b', 1, 1), placed('a', 2, 1), placed('a', 1, 2), placed('a', 1, 1)];
    expect(judged(all).findings.map(({ place }) => `${place?.path}${place?.line}${place?.column}`)).toEqual([
      'a11',
      'a12',
      'a21',
      'b11',
    ]);
  });

  test('at one place is by level, then by variable', () => {
    const all = [raw('C'), raw('B', 'dist/a.js', { level: 'note' }), raw('A')];
    expect(judged(all).findings.map(({ variable }) => variable)).toEqual(['A', 'C', 'B']);
  });
});

test('the reach is that of the declaration', () => {
  const reachOf = (name: string) => (name === 'A' ? ('server' as const) : undefined);
  const { findings } = judged([raw('A'), raw('B')], { reachOf });
  expect(findings.map(({ reach }) => reach)).toEqual(['server', undefined]);
});

describe('the fingerprint of a finding', () => {
  const printOf = (path: string, more: Partial<RawFinding> = {}) =>
    judged([
      {
        ...finding('leak/known-value', 'shipped', { variable: 'A', reach: 'server' } as never, { variable: 'A' }),
        place: { path, inside: [] },
        ...more,
      },
    ]).findings[0]?.fingerprint;

  test.each([
    ['dist/index-4fd1c2ab.js', 'dist/index-9e8d7c6b.js', true],
    ['dist/index.4fd1c2ab.js', 'dist/index.9e8d7c6b.js', true],
    ['dist/index-4fd1c2.js', 'dist/index-9e8d7c.js', true],
    ['dist/index-4fd1c.js', 'dist/index-9e8d7.js', false],
    ['dist/index-banners.js', 'dist/index-details.js', false],
    ['dist/index4fd1c2ab.js', 'dist/index9e8d7c6b.js', false],
    ['dist/index-4fd1c2ab', 'dist/index-9e8d7c6b', false],
    ['dist/a.js', 'dist/b.js', false],
  ])('in %s and %s: the same is %s', (one, other, isSame) => {
    expect(printOf(one) === printOf(other)).toBe(isSame);
  });

  test('is another one in another archive', () => {
    const place = { path: 'a.zip', inside: ['a.js'] };
    expect(printOf('a.zip', { place })).not.toBe(printOf('a.zip'));
  });

  test('does not depend on the line', () => {
    expect(printOf('a.js', { place: { path: 'a.js', inside: [], line: 7 } })).toBe(printOf('a.js'));
  });
});
