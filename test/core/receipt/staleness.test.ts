import { expect, test } from 'vitest';
import type { Variable } from '../../../src/core/contract/contract.js';
import { buildFacts } from '../../../src/core/receipt/build-facts.js';
import { fingerprint, makeReceipt } from '../../../src/core/receipt/receipt.js';
import { parseReceipt } from '../../../src/core/receipt/schema.js';
import { type OutputNow, stalenessFindings } from '../../../src/core/receipt/staleness.js';
import { Secret } from '../../../src/core/secrets/secret.js';
import { contractOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

const { variables } = contractOf(
  'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { URL: public, TOKEN: build, NEW: public }\n',
);
const key = new Uint8Array(32).fill(7);

const value = (name: string, text: string) => ({
  name,
  reach: variables.get(name)?.reach ?? 'server',
  readAs: name,
  fingerprint: fingerprint(key, name, new Secret(text)),
  places: name === 'URL' ? [{ path: 'dist/a.js', offset: 4, length: 9 }] : [],
});

const receipt = makeReceipt({
  bundle: 'desk',
  stage: 'production',
  builtAt: '2026-11-24T04:10:33.000Z',
  adder: '0.1.0',
  command: ['npm', 'run', 'build'],
  values: [value('URL', 'old-value'), value('TOKEN', 'old-token')],
  digests: new Map([
    ['dist/a.js', 'd1'],
    ['dist/b.js', 'd2'],
  ]),
});

/** The findings if these values would be given now, and these files exist. */
function said(
  given: Record<string, string>,
  { buildsAlike = true, ...facts }: Partial<OutputNow> & { buildsAlike?: boolean } = {},
  stage = 'production',
): string[] {
  const build = buildFacts(stage, receipt, {
    path: '.adder/r.json',
    key,
    given: new Map(
      Object.entries(given).map(([name, text]) => [
        name,
        { variable: variables.get(name) as Variable, value: new Secret(text) },
      ]),
    ),
    unset: new Map(),
    buildsAlike,
  });
  const now: OutputNow = {
    unchanged: new Set(['dist/a.js', 'dist/b.js']),
    present: new Set(['dist/a.js', 'dist/b.js']),
    seen: new Set(['URL']),
    ...facts,
  };
  const findings = stalenessFindings(stage, build, now, (_, { path, offset, length }) => ({
    place: { path, inside: [], line: 1, column: offset + 1, offset, length },
  }));
  return findings
    .map(inWords)
    .map(
      ({ code, level, variable, place, message }) =>
        `${code} ${level ?? ''} ${variable ?? ''} ${place?.path}: ${message}`,
    );
}

const same = { URL: 'old-value', TOKEN: 'old-token' };

test.each<[title: string, findings: () => string[], expected: string[]]>([
  ['nothing changed', () => said(same), []],
  [
    'a public value changed: one finding, at its place',
    () => said({ ...same, URL: 'new' }),
    ['stale/past-value  URL dist/a.js: desk still has the old value of URL, from its build on 2026-11-24 04:10 UTC'],
  ],
  ['a build value changed, which is in no artifact', () => said({ ...same, TOKEN: 'new' }), []],
  [
    'the file with the old value was built anew by somebody else, with the current value',
    () => said({ ...same, URL: 'new' }, { unchanged: new Set(['dist/b.js']) }),
    [
      'stale/receipt warning  .adder/r.json: the receipt of 2026-11-24 04:10 UTC describes other files: of 2, 1 file differs',
    ],
  ],
  [
    'the file with the old value was built anew by somebody else, without the current value',
    () => said({ ...same, URL: 'new' }, { unchanged: new Set(['dist/b.js']), seen: new Set() }),
    [
      'stale/receipt warning  .adder/r.json: the receipt of 2026-11-24 04:10 UTC describes other files: of 2, 1 file differs',
      'stale/receipt  URL .adder/r.json: desk still has the old value of URL, from its build on 2026-11-24 04:10 UTC',
    ],
  ],
  [
    'the present value is gone from the artifacts',
    () => said(same, { seen: new Set(), unchanged: new Set(), present: new Set(['dist/a.js']) }),
    [
      'stale/receipt warning  .adder/r.json: the receipt of 2026-11-24 04:10 UTC describes other files: of 2, 1 file differs and 1 file is missing',
      'stale/missing-value  URL .adder/r.json: desk contained the value of URL when it was built, but no longer does',
    ],
  ],
  [
    'a public value is given no more, and a build value neither',
    () => said({}),
    ['stale/receipt  URL .adder/r.json: desk was built with URL, which it no longer gets'],
  ],
  [
    'a public value is new',
    () => said({ ...same, NEW: 'x' }),
    ['stale/receipt warning NEW .adder/r.json: NEW was added after the last build of desk'],
  ],
  [
    'another stage was built last, with the same inlined values',
    () => said({ ...same, TOKEN: 'x' }, {}, 'staging').slice(1),
    [],
  ],
  [
    'another stage was built last, with the same values, as another kind of build',
    () => said(same, { buildsAlike: false }, 'staging'),
    ['stale/receipt   .adder/r.json: desk was last built for production, not for staging'],
  ],
  [
    'another stage was built last, with another value',
    () => said({ ...same, URL: 'new' }, {}, 'staging'),
    ['stale/receipt   .adder/r.json: desk was last built for production, not for staging'],
  ],
])('%s', (_, findings, expected) => expect(findings()).toEqual(expected));

test('a fingerprint depends on the key, the name and the value', () => {
  const secret = new Secret('x');
  const all = [
    fingerprint(key, 'A', secret),
    fingerprint(key, 'B', secret),
    fingerprint(new Uint8Array(32), 'A', secret),
    fingerprint(key, 'A', new Secret('y')),
  ];
  expect(new Set(all).size).toBe(4);
  expect(fingerprint(key, 'A', new Secret('x'))).toBe(all[0]);
});

test('a receipt is a Statement, holds no value, and reads back', () => {
  const text = JSON.stringify(receipt);
  expect(text).not.toContain('old-');
  expect(receipt).toMatchObject({
    _type: 'https://in-toto.io/Statement/v1',
    subject: [{ name: 'dist/a.js', digest: { sha256: 'd1' } }, {}],
  });
  expect(parseReceipt(text)).toEqual(receipt);
  for (const other of ['', '{}', '[]', 'null', '{"_type":"https://in-toto.io/Statement/v1"}'])
    expect(parseReceipt(other)).toBeUndefined();
});
