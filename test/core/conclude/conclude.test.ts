import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { addFacts, type Facts, looseOutput, type OutputFacts } from '../../../src/core/conclude/facts.js';
import { conclude } from '../../../src/core/conclude/index.js';
import { ofOneShard } from '../../../src/core/conclude/shards.js';
import { finding } from '../../../src/core/findings/finding.js';
import type { SiteFacts } from '../../../src/core/probe/site.js';
import type { BuildFacts } from '../../../src/core/receipt/build-facts.js';

const place = { path: 'dist/a.js', inside: [], line: 1, column: 1 };
const leak = finding('leak/known-value', 'shipped', { variable: 'KEY', reach: 'server' }, { bundle: 'desk', place });
const foreign = finding(
  'stage/foreign-value',
  'value',
  { variable: 'URL', stage: 'staging', of: 'production', rebuild: ['adder', 'with', 'production'], isBuiltHere: true },
  { bundle: 'desk', place },
);
const read = { variable: 'URL', place: { path: 'src/a.ts', inside: [], line: 3, column: 9 } };

const build: BuildFacts = {
  ...{ bundle: 'desk', stage: 'production', builtAt: '2026-11-29T08:00:00.000Z', receipt: '.adder/r.json' },
  rebuild: ['adder', 'with', 'production', '--bundle', 'desk'],
  files: [{ name: 'dist/a.js', sha256: 'd1' }],
  values: [],
  ...{ added: [], servesStage: true },
};
const isThere = { path: 'dist/a.js', inside: [], sha256: ['d1'] };

function facts(output: Partial<OutputFacts> = {}, more: Partial<Facts> = {}): Facts {
  return {
    ...{ stage: 'production', variables: [], withoutValue: [], since: [], isAll: true, shards: [] },
    coverage: { files: 1, members: 0, bytes: 1, unread: [] },
    outputs: [{ ...looseOutput([], 'desk'), isWhole: true, ...output }],
    ...more,
  };
}

/** Conclusions as `code variant variable`, and the answers to the questions. */
function concluded(of: Facts) {
  const { findings, verdict } = conclude(of);
  return {
    findings: findings.map(({ code, variant, variable }) => [code, variant, variable].filter(Boolean).join(' ')),
    asked: verdict?.asked,
    doubts: verdict?.doubts.map(({ question, because }) => `${question}: ${because}`),
  };
}

const value = (
  relation: 'same' | 'changed',
  places: BuildFacts['values'][number]['places'],
): BuildFacts['values'][number] => ({
  ...{ variable: 'URL', relation, places, isPublic: true, isBuildValue: false, modules: [] },
});
const expected = [{ variable: 'URL', leavesTrace: true }];
const all = ['nothingLeaked', 'allThere', 'current'];

test.each<[title: string, of: Facts, findings: string[], asked?: string[], doubts?: RegExp[]]>([
  ['nothing', facts(), []],
  ['a leak', facts({ found: [leak] }), ['leak/known-value shipped KEY']],
  [
    'files that are no whole output',
    facts({ isWhole: false, found: [leak] }),
    ['leak/known-value shipped KEY'],
    ['nothingLeaked'],
  ],
  ['a value that the code reads', facts({ expected, reads: [read] }), ['stale/missing-value in-output URL']],
  ['one that is there', facts({ expected, reads: [read], present: ['URL'] }), []],
  ['one that no code reads', facts({ expected }), []],
  [
    'one whose earlier value is there',
    facts({ expected, reads: [read], past: [{ variable: 'URL', builtAt: build.builtAt, place, caches: [] }] }),
    ['stale/past-value not-replaced URL'],
  ],
  [
    'an earlier value beside the current one',
    facts({ present: ['URL'], past: [{ variable: 'URL', builtAt: build.builtAt, place, caches: [] }] }),
    [],
  ],
  [
    'another stage’s value instead',
    facts({ found: [foreign], expected, reads: [read] }),
    ['stage/foreign-value value URL'],
  ],
  [
    'another stage’s value that the code itself has',
    facts({ found: [foreign], inCode: [{ variable: 'URL', hasValue: true }], present: ['URL'] }),
    [],
  ],
  [
    'the same without this stage’s value',
    facts({ found: [foreign], inCode: [{ variable: 'URL', hasValue: true }] }),
    ['stage/foreign-value value URL'],
  ],
  [
    'the same in a source file that no entry imports',
    facts({
      found: [foreign],
      inCode: [{ variable: 'URL', hasValue: true, source: 'src/pay.js:1' }],
      present: ['URL'],
    }),
    ['stage/foreign-value hard-coded URL'],
  ],
  ['the same if this stage has none', facts({ found: [foreign], inCode: [{ variable: 'URL', hasValue: false }] }), []],
  [
    'a flag without a receipt',
    facts({ expected: [{ variable: 'FLAG', leavesTrace: false }], reads: [{ ...read, variable: 'FLAG' }] }),
    [],
    all,
    [/^current: desk has no receipt, and a build may leave no trace of FLAG$/],
  ],
  [
    'a flag with a receipt',
    facts({
      build,
      files: [isThere],
      hasBuilds: true,
      expected: [{ variable: 'FLAG', leavesTrace: false }],
      reads: [{ ...read, variable: 'FLAG' }],
    }),
    [],
  ],
  [
    'a build for another stage',
    facts({ build: { ...build, stage: 'staging', servesStage: false } }),
    ['stale/receipt other-stage'],
  ],
  ['files of another build', facts({ build, files: [{ ...isThere, sha256: ['d9'] }] }), ['stale/receipt other-files']],
  [
    'a page that only got its tag for load-time values',
    facts({ build, files: [{ ...isThere, sha256: ['d9', 'd1'] }] }),
    [],
  ],
  [
    'an embedded file of an earlier build for another stage',
    facts({
      earlier: [{ ...build, stage: 'staging', servesStage: false }],
      hasBuilds: true,
      files: [{ path: 'dist/a.zip', inside: ['a.js'], sha256: ['d1'] }],
    }),
    ['stale/receipt file-of-other-stage'],
  ],
  [
    'an old file among the new ones',
    facts({
      build: {
        ...build,
        files: [
          { name: 'dist/b.js', sha256: 'd2' },
          { name: 'dist/a.js', sha256: 'd1', isUntouched: true },
        ],
      },
      earlier: [{ ...build, values: [value('changed', [{ path: 'dist/a.js', offset: 3, length: 9 }])] }],
      hasBuilds: true,
      files: [isThere, { path: 'dist/b.js', inside: [], sha256: ['d2'] }],
    }),
    ['stale/past-value left-over URL'],
  ],
  [
    'an old file whose value changed after the last build too',
    facts({
      build: {
        ...build,
        files: [{ name: 'dist/a.js', sha256: 'd1', isUntouched: true }],
        values: [value('changed', [{ path: 'dist/a.js', offset: 3, length: 9 }])],
      },
      earlier: [{ ...build, values: [value('changed', [{ path: 'dist/a.js', offset: 3, length: 9 }])] }],
      hasBuilds: true,
      files: [isThere],
    }),
    ['stale/past-value in-build URL'],
  ],
  [
    'an old file of another stage',
    facts({
      build: { ...build, files: [{ name: 'dist/a.js', sha256: 'd1', isUntouched: true }] },
      earlier: [{ ...build, stage: 'staging', servesStage: false }],
      hasBuilds: true,
      files: [isThere],
    }),
    ['stale/receipt left-over'],
  ],
  [
    'a file that two builds wrote belongs to the newer build',
    facts({
      isWhole: false,
      hasBuilds: true,
      files: [isThere],
      earlier: [build, { ...build, stage: 'staging', servesStage: false }],
    }),
    [],
    ['nothingLeaked', 'current'],
  ],
  [
    'the same file, if the newer build did not write it',
    facts({
      isWhole: false,
      hasBuilds: true,
      files: [isThere],
      earlier: [
        { ...build, files: [{ name: 'dist/a.js', sha256: 'd1', isUntouched: true }] },
        { ...build, stage: 'staging', servesStage: false },
      ],
    }),
    ['stale/receipt file-of-other-stage'],
    ['nothingLeaked', 'current'],
  ],
  [
    'an old value in an archive',
    facts({
      build,
      hasBuilds: true,
      files: [isThere, { path: 'dist/a.zip', inside: ['a.js'], sha256: ['d3'] }],
      earlier: [
        {
          ...build,
          files: [{ name: 'dist/a.js', sha256: 'd3' }],
          values: [value('changed', [{ path: 'dist/a.js', offset: 3, length: 9 }])],
        },
      ],
    }),
    ['stale/past-value in-build URL'],
  ],
  [
    'an archive of files of a build',
    facts({
      isWhole: false,
      hasBuilds: true,
      earlier: [build],
      files: [
        { path: 'a.zip', inside: [], sha256: ['d8'] },
        { path: 'a.zip', inside: ['a.js'], sha256: ['d1'] },
      ],
    }),
    [],
    ['nothingLeaked', 'current'],
  ],
  [
    'a value of a build that is in no file of it any more',
    facts({
      build: { ...build, values: [value('same', [{ path: 'dist/a.js', offset: 3, length: 9 }])] },
      files: [isThere],
      expected,
      reads: [read],
    }),
    ['stale/missing-value no-longer URL'],
  ],
  [
    'a missing value beside a finding about another one',
    facts({ found: [leak], expected, reads: [read] }),
    ['leak/known-value shipped KEY', 'stale/missing-value in-output URL'],
  ],
  [
    'a missing value that another bundle has a finding about',
    facts({ found: [{ ...foreign, bundle: 'quay' }], expected, reads: [read] }),
    ['stage/foreign-value value URL', 'stale/missing-value in-output URL'],
  ],
  [
    'two flags, and code that reads one of them',
    facts({
      expected: ['FLAG', 'OTHER'].map((variable) => ({ variable, leavesTrace: false })),
      reads: [{ ...read, variable: 'OTHER' }],
    }),
    [],
    all,
    [/and a build may leave no trace of OTHER$/],
  ],
  [
    'single files of a build',
    facts({ isWhole: false, hasBuilds: true, earlier: [build], files: [isThere] }),
    [],
    ['nothingLeaked', 'current'],
  ],
  [
    'single files of no build',
    facts({ isWhole: false, hasBuilds: true, earlier: [build], files: [{ ...isThere, sha256: ['d9'] }] }),
    [],
    ['nothingLeaked'],
  ],
  ['a repository beside the files', facts({ skipped: ['dist/.git'] }), ['leak/private-file private']],
  [
    'another stage’s value in a values file',
    facts({
      found: [foreign],
      loadTime: [
        finding('stale/runtime-file', 'lacks', { command: ['adder'], variable: 'URL', stage: 'production' }, { place }),
      ],
    }),
    ['stale/runtime-file lacks URL'],
  ],
  [
    'a secret without a value here',
    facts({}, { withoutValue: ['KEY'] }),
    [],
    all,
    [/^nothingLeaked: KEY has no value here/],
  ],
])('%s', (_, of, findings, asked = all, doubts = []) => {
  const result = concluded(of);
  expect(result.findings).toEqual(findings);
  expect(result.asked).toEqual(asked);
  expect(result.doubts).toHaveLength(doubts.length);
  for (const [index, pattern] of doubts.entries()) expect(result.doubts?.[index]).toMatch(pattern);
});

describe('shards', () => {
  const shard = (part: number, output: Partial<OutputFacts>) =>
    facts(output, { shards: [{ part, of: 2, listing: 'a' }] });
  const [first, second] = [
    shard(1, { expected, reads: [read], found: [leak], present: [] }),
    shard(2, { expected, reads: [read], present: ['URL'] }),
  ];

  test('are concluded together: what one lacks, another may have', () => {
    expect(concluded(addFacts(first, second))).toEqual(concluded(addFacts(second, first)));
    expect(concluded(addFacts(first, second)).findings).toEqual(['leak/known-value shipped KEY']);
  });

  test('one alone answers only whether it contains a leak', () => {
    expect(concluded(ofOneShard(first))).toEqual({
      findings: ['leak/known-value shipped KEY'],
      asked: ['nothingLeaked'],
      doubts: [],
    });
  });

  test('several missing ones are named, with how to make the first', () => {
    const { verdict } = conclude(facts({}, { shards: [{ part: 2, of: 4, listing: 'a' }] }));
    expect(verdict?.doubts[0]).toEqual({
      question: 'nothingLeaked',
      because: 'parts 1, 3, 4 of 4 are missing',
      remedy: 'run `adder inspect --stage production --shard 1/4 --format json` and add its report',
    });
  });

  test('one alone is not everything', () => expect(ofOneShard({ ...first, isAll: true }).isAll).toBe(false));

  test('a missing one leaves every question open', () => {
    const { asked, doubts, findings } = concluded(first);
    expect(asked).toEqual(all);
    expect(doubts).toEqual(all.map((question) => `${question}: part 2 of 2 is missing`));
    expect(findings).toEqual(['leak/known-value shipped KEY']);
  });

  test('any division and any order of the same files gives one conclusion', () => {
    const names = ['A', 'B', 'C', 'D'];
    const files = fc.array(fc.record({ part: fc.integer({ min: 0, max: 2 }), present: fc.subarray(names) }), {
      maxLength: 6,
    });
    fc.assert(
      fc.property(files, fc.boolean(), (some, isReversed) => {
        const about = {
          expected: names.map((variable) => ({ variable, leavesTrace: true })),
          reads: names.map((variable) => ({ ...read, variable })),
        };
        const of = (part: number) => some.flatMap((one) => (one.part === part ? one.present : []));
        const parts = [0, 1, 2].map((part) =>
          facts({ ...about, present: of(part) }, { shards: [{ part: part + 1, of: 3, listing: 'a' }] }),
        );
        const ordered = isReversed ? parts.toReversed() : parts;
        const whole = facts({ ...about, present: some.flatMap(({ present }) => present) });
        expect(concluded(ordered.reduce(addFacts))).toEqual(concluded(whole));
      }),
    );
  });
});

describe('groups of codes that were checked completely', () => {
  const groupsOf = (more: Partial<Facts>) => conclude(facts({}, more)).groups;
  const unread = { files: 1, members: 0, bytes: 1, unread: [{ path: 'a', inside: [], because: 'is a pipe' }] };

  test.each<[what: string, more: Partial<Facts>, groups: string[]]>([
    ['without a receipt', {}, ['leak/', 'stale/', 'stage/', 'read/']],
    ['of the stage that was built', { builtStage: 'production' }, ['leak/', 'stale/', 'stage/', 'read/']],
    ['of another stage', { builtStage: 'staging' }, ['leak/', 'read/']],
    ['of single files', { isAll: false }, []],
    ['with a file that was not read', { coverage: unread }, []],
    ['with a missing part', { shards: [{ part: 1, of: 2, listing: 'a' }] }, []],
  ])('%s', (_, more, groups) => expect(groupsOf(more)).toEqual(groups));
});

test('what a report shows besides findings is passed on', () => {
  const contents = { variables: [], files: [], values: [] };
  const since = [{ bundle: 'desk', stage: 'production', builtAt: build.builtAt, changes: [], rebuild: [], reload: [] }];
  expect(conclude(facts({}, { contents, since }))).toMatchObject({ contents, since });
  expect(Object.keys(conclude(facts()))).not.toContain('since');
  expect(Object.keys(conclude(facts()))).not.toContain('contents');
});

describe('a site', () => {
  const aBuild = { bundle: 'desk', stage: 'production', builtAt: build.builtAt, urls: ['https://shop.example/a.js'] };
  const site = (served: Partial<SiteFacts['served']>): SiteFacts => ({
    ...{ url: 'https://shop.example/', resources: [], valueFiles: [], workers: [], calls: [], startFiles: [] },
    served: { receipts: 1, builds: [aBuild], unknown: [], lacks: [], since: [], ...served },
  });
  const of = (served: Partial<SiteFacts['served']>, more: Partial<OutputFacts> = {}) =>
    concluded(facts({ site: site(served), ...more }));

  test.each<[what: string, served: Partial<SiteFacts['served']>, asked: string[], doubts: string[]]>([
    ['of a known build', {}, ['nothingLeaked', 'current', 'allThere'], []],
    [
      'of no known build',
      { builds: [] },
      ['nothingLeaked', 'allThere'],
      ['current: no receipt describes the files that the site serves'],
    ],
    [
      'on a machine without receipts',
      { builds: [], receipts: 0 },
      ['nothingLeaked', 'allThere'],
      ['current: desk has no receipt on this machine'],
    ],
    [
      'with one file of no build',
      { unknown: ['https://shop.example/b.js'] },
      ['nothingLeaked', 'current', 'allThere'],
      ['current: 1 file of the site is of no build that a receipt describes'],
    ],
    [
      'with two files of no build',
      { unknown: ['https://shop.example/b.js', 'https://shop.example/c.js'] },
      ['nothingLeaked', 'current', 'allThere'],
      ['current: 2 files of the site are of no build that a receipt describes'],
    ],
  ])('%s', (_, served, asked, doubts) => expect(of(served)).toEqual({ findings: [], asked, doubts }));

  test('that was not read may lack anything', () => {
    const { asked, doubts } = of({}, { isWhole: false });
    expect([asked, doubts]).toEqual([
      ['nothingLeaked', 'current'],
      ['allThere: not all of the site of desk could be read'],
    ]);
  });

  test('lacks a value that the code reads', () => {
    const variant = (served: Partial<SiteFacts['served']>) => of(served, { expected, reads: [read] }).findings;
    expect(variant({})).toEqual(['stale/missing-value on-site URL']);
    // Another build has values of its own.
    expect(variant({ builds: [{ ...aBuild, stage: 'staging' }] })).not.toContain('stale/missing-value on-site URL');
  });
});
