import { describe, expect, test } from 'vitest';
import type { Variable } from '../../../src/core/contract/contract.js';
import type { Reach } from '../../../src/core/findings/reach.js';
import { type BuildFacts, buildFacts } from '../../../src/core/receipt/build-facts.js';
import { fingerprint, makeReceipt } from '../../../src/core/receipt/receipt.js';
import type { GivenValue } from '../../../src/core/receipt/serves-both.js';
import { stalenessFindings } from '../../../src/core/receipt/staleness.js';
import { Secret } from '../../../src/core/secrets/secret.js';
import { contractOf } from '../../support/contract.js';

const key = new Uint8Array(32).fill(7);
const places = [{ path: 'dist/a.js', offset: 4, length: 9 }];

const receipt = makeReceipt({
  bundle: 'desk',
  stage: 'production',
  builtAt: '2026-11-24T04:10:33.000Z',
  adder: '0.1.0',
  command: ['npm', 'run', 'build'],
  values: [
    {
      name: 'URL',
      reach: 'public',
      readAs: 'URL',
      fingerprint: fingerprint(key, 'URL', new Secret('old-value')),
      places,
      modules: ['src/main.js'],
    },
  ],
  digests: new Map([['dist/a.js', 'd1']]),
});

/** Facts of the receipt when a build now gets URL with this declaration and value. */
function factsWith(declaration: string, value: string, more: Partial<GivenValue> = {}, name = 'URL'): BuildFacts {
  const { variables } = contractOf(
    `adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { ${name}: ${declaration} }\n`,
  );
  const given = new Map([[name, { variable: variables.get(name) as Variable, value: new Secret(value), ...more }]]);
  return buildFacts('production', receipt, { path: '.adder/r.json', key, given, unset: new Map(), buildsAlike: true });
}

const excerpt = { lines: [{ number: 1, text: 'old-value' }], caret: { line: 1, start: 0, length: 9 } } as never;

/** The finding of the value, in a file that did not change. */
function findingOf(facts: BuildFacts) {
  const files = new Set(['dist/a.js']);
  const now = { unchanged: files, present: files, seen: new Set<string>() };
  const [first] = stalenessFindings('production', facts, now, (_, { path }) => ({
    place: { path, inside: [] },
    excerpt,
  }));
  return first;
}

describe('the line that contains an old value', () => {
  test('is shown if the variable is still public', () => {
    expect(findingOf(factsWith('public', 'new-value'))?.excerpt).toBe(excerpt);
  });

  test.each(['server', 'build'])('is not shown if the variable became %s since the build', (reach) => {
    expect(findingOf(factsWith(reach, 'new-value'))?.excerpt).toBeUndefined();
  });

  test('is not shown if the variable is gone', () => {
    expect(factsWith('public', 'x', {}, 'OTHER').values).toMatchObject([{ relation: 'withdrawn', isPublic: false }]);
  });
});

describe('a value that is no longer given', () => {
  const relation = (layer: string, unset: [string, Reach][]) => {
    const { values, ...rest } = receipt.predicate;
    const built = makeReceipt({
      ...rest,
      values: values.map((one) => ({ ...one, from: { layer } })),
      digests: new Map(),
    });
    const about = { path: '.adder/r.json', key, given: new Map(), unset: new Map(unset), buildsAlike: true };
    return buildFacts('production', built, about).values[0]?.relation;
  };

  test.each<[title: string, layer: string, unset: [string, Reach][], relation: string]>([
    ['is unknown if only the environment had it', 'process', [['URL', 'public']], 'unknown'],
    ['is withdrawn if a file had it', '.env', [['URL', 'public']], 'withdrawn'],
    ['is withdrawn if the environment gives it no more', 'process', [], 'withdrawn'],
    ['is withdrawn if the variable became secret', 'process', [['URL', 'server']], 'withdrawn'],
  ])('%s', (_, layer, unset, expected) => expect(relation(layer, unset)).toBe(expected));
});

describe('a variable that the build did not get', () => {
  test.each([
    ['public', ['OTHER']],
    ['{ reach: public, delivery: runtime }', []],
    ['build', []],
    ['server', []],
  ])('%s: added is %j', (declaration, added) => {
    expect(factsWith(declaration, 'x', {}, 'OTHER').added).toEqual(added);
  });

  test('is not added if the receipt has it', () => {
    expect(factsWith('public', 'x').added).toEqual([]);
  });
});

describe('the present value', () => {
  test.each([
    ['old-value', 'same'],
    ['new-value', 'changed'],
  ])('%s is %s', (value, relation) => {
    expect(factsWith('public', value).values).toMatchObject([{ variable: 'URL', relation, places }]);
  });

  test('is named with its file', () => {
    const from = { layer: '.env', path: '.env', line: 3 } as never;
    expect(factsWith('public', 'new-value', { from }).values[0]?.current).toBe('.env:3');
  });

  test('that comes from no file is not named', () => {
    const from = { layer: 'process' } as never;
    expect(factsWith('public', 'new-value', { from }).values[0]).not.toHaveProperty('current');
  });

  test('that is read at load time is left out', () => {
    expect(factsWith('{ reach: public, delivery: runtime }', 'x').values).toEqual([]);
  });
});
