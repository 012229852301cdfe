import { describe, expect, test } from 'vitest';
import { noFacts } from '../../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { resolveStage } from '../../../src/core/resolve/resolve.js';
import { differing, stablePath, stableText } from '../../../src/core/trial/difference.js';
import { disputedNames, hiddenNames, overriddenNames, withUnhidden } from '../../../src/core/trial/hidden.js';
import { otherValue } from '../../../src/core/trial/other-value.js';
import { contractOf } from '../../support/contract.js';

describe('another value', () => {
  const any = () => true;

  test.each<[value: string, other: string | undefined]>([
    ['true', 'false'],
    ['false', 'true'],
    ['0', '1'],
    ['yes', 'no'],
    ['48', '49'],
    ['30px', '41px'],
    ['summer', 'qqqqqq'],
    ['', undefined],
  ])('of %s is %s', (value, other) => expect(otherValue(value, any)).toBe(other));

  test('is one that the contract allows', () => {
    expect(otherValue('48', (text) => Number(text) <= 48)).toBe('47');
    expect(otherValue('summer', (text) => /^(summer|winter)$/.test(text), ['summer', 'winter'])).toBe('winter');
    expect(otherValue('true', (text) => text === 'true')).toBeUndefined();
  });
});

describe('outputs of two builds', () => {
  test.each([
    ['dist/assets/index-DxSexbgc.js', 'dist/assets/index-*.js'],
    ['dist/assets/index-4mKq81ab.js.map', 'dist/assets/index-*.js.map'],
    ['dist/main.js', 'dist/main.js'],
    ['.next/static/k3J9sdf02Lq/_buildManifest.js', '.next/static/*/_buildManifest.js'],
    ['dist/v2/app.js', 'dist/v2/app.js'],
  ])('%s is %s', (path, stable) => expect(stablePath(path)).toBe(stable));

  test('a file that loads another one by its computed name is the same', () => {
    const [one, other] = [['a-11111111.js'], ['a-22222222.js']];
    expect(stableText('import("./a-11111111.js")', one)).toBe(stableText('import("./a-22222222.js")', other));
    expect(stableText('import("./main.js")', ['main.js'])).toBe('import("./main.js")');
  });

  test('differ by contents and by files, in any order of equal paths', () => {
    const one = new Map([
      ['a', ['1', '2']],
      ['b', ['3']],
      ['c', ['4']],
    ]);
    const other = new Map([
      ['a', ['2', '1']],
      ['b', ['5']],
      ['d', ['4']],
    ]);
    expect([...differing(one, other)].sort()).toEqual(['b', 'c', 'd']);
    expect(differing(one, one).size).toBe(0);
  });
});

describe('a value of the environment that hides one of a file', () => {
  const marker = (text: string, path?: string) => ({ text, name: 'KEY', setAt: path ? { path, line: 1 } : {} });
  const [inEnvironment, inFile, inFileAgain] = [marker('t1'), marker('t2', '.env'), marker('t3', '.env')];
  const arrival = (of: typeof inFile) => ({
    marker: of,
    path: 'dist/a.js',
    inside: [],
    audience: 'browser' as const,
    encoding: [],
  });
  const base = { unmarked: [], unmarkedAt: [], asked: [], hasOutput: true };
  const widest = { ...base, markers: [inFile, inEnvironment], arrivals: [arrival(inEnvironment)] };

  test('is one that `adder with` would not give, and that a file has too', () => {
    expect([...hiddenNames({ evidence: widest, given: new Set() })]).toEqual(['KEY']);
    expect([...hiddenNames({ evidence: widest, given: new Set(['KEY']) })]).toEqual([]);
    expect([...hiddenNames({ evidence: { ...widest, markers: [inEnvironment] }, given: new Set() })]).toEqual([]);
    expect([...hiddenNames({ evidence: { ...widest, arrivals: [arrival(inFile)] }, given: new Set() })]).toEqual([]);
  });

  test('the second build tells whether that of the file arrives', () => {
    const arrives = { ...base, markers: [inFileAgain], arrivals: [arrival(inFileAgain)] };
    expect(withUnhidden(widest, arrives, new Set(['KEY'])).arrivals).toEqual([arrival(inFileAgain)]);
    const none = { ...base, markers: [inFileAgain], arrivals: [] };
    expect(withUnhidden(widest, none, new Set(['KEY'])).arrivals).toEqual([arrival(inEnvironment)]);
  });
});

describe('a value from another file than the contract says', () => {
  const contract = contractOf(`adder: 1
stages: { production: { layers: [.env, .env.production] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { VITE_URL: public }
`);
  const stage = contract.stages.get('production') ?? expect.unreachable();
  const layers = ['.env', '.env.production'].map((path) =>
    readEnvFileLayer(path, path, Buffer.from(`VITE_URL=https://${path.length}.example\n`), noFacts),
  );
  const resolution = resolveStage(contract, stage, layers);
  const from = (path?: string) => ({
    marker: { text: 't', name: 'VITE_URL', setAt: path === undefined ? {} : { path, line: 1 } },
    ...{ path: 'dist/a.js', inside: [], audience: 'browser' as const, encoding: [] },
  });
  const evidence = (...arrivals: ReturnType<typeof from>[]) => ({
    markers: [],
    unmarked: [],
    unmarkedAt: [],
    asked: [],
    hasOutput: true,
    arrivals,
  });
  const given = new Set(['VITE_URL']);

  test('is disputed if `adder with` gives the name', () => {
    const of = { contract, resolution, given };
    expect([...disputedNames({ ...of, evidence: evidence(from('.env')) })]).toEqual(['VITE_URL']);
    expect([...disputedNames({ ...of, evidence: evidence(from('.env.production')) })]).toEqual([]);
    expect([...disputedNames({ ...of, evidence: evidence(from()) })]).toEqual([]);
    expect([...disputedNames({ ...of, given: new Set(), evidence: evidence(from('.env')) })]).toEqual([]);
  });

  test('is overridden if the value of the environment arrives, and none of a file', () => {
    expect(overriddenNames(evidence(from()), given)).toEqual(['VITE_URL']);
    expect(overriddenNames(evidence(from(), from('.env')), given)).toEqual([]);
    expect(overriddenNames(evidence(), given)).toEqual([]);
  });
});
