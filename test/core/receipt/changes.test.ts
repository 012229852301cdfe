import { describe, expect, test } from 'vitest';
import { givenValues } from '../../../src/core/build/environment.js';
import type { Bundle } from '../../../src/core/contract/contract.js';
import { howTo } from '../../../src/core/findings/change.js';
import { builtValues, changesBetween, currentValues, otherValues } from '../../../src/core/receipt/changes.js';
import { fingerprint, keyMark, makeReceipt, type Receipt, rebuildCommand } from '../../../src/core/receipt/receipt.js';
import { parseReceipt } from '../../../src/core/receipt/schema.js';
import { buildsReport, comparedBuild } from '../../../src/core/report/builds.js';
import { printers } from '../../../src/core/report/printers.js';
import { makeStyle } from '../../../src/core/report/style.js';
import { sinceLines } from '../../../src/core/report/text-changes.js';
import { contractOf, resolutionOf } from '../../support/contract.js';

const contract = contractOf(`adder: 1
stages: { production: { layers: [.env] } }
bundles:
  desk: { toolchain: vite, code: src, output: dist }
  quay: { runs: server, code: server, output: server-dist }
variables:
  URL: { reach: public, bundles: [desk] }
  FLAG: { reach: public, form: flag, bundles: [desk] }
  BANNER: { reach: public, delivery: runtime }
  TOKEN: { reach: build, bundles: [desk] }
  KEY: server
`);
const key = new Uint8Array(32).fill(7);
const desk = contract.bundles.get('desk') as Bundle;
const quay = contract.bundles.get('quay') as Bundle;
const usual = { URL: 'https://a.example', FLAG: 'true', BANNER: 'late', TOKEN: 'token-1', KEY: 'key-1' };

const stageWith = (bundle: Bundle, values: Record<string, string>) => {
  const env = Object.entries(values).map(([name, value]) => `${name}='${value}'\n`);
  const resolution = resolutionOf(contract, 'production', env.join(''));
  return { bundle, resolution, given: givenValues(contract, bundle, resolution) };
};

/** The receipt of a build with these values. */
function built(
  bundle: Bundle,
  values: Record<string, string>,
  part: { modules?: string[]; others?: boolean } = {},
): Receipt {
  const now = stageWith(bundle, values);
  return makeReceipt({
    ...{
      bundle: bundle.name,
      stage: 'production',
      builtAt: '2026-11-27T08:00:00.000Z',
      adder: '0.1.0',
      command: ['npm', 'run', 'build'],
    },
    values: [...now.given.values()].map(({ variable: { name, reach, delivery }, value }) => ({
      ...{ name, reach, delivery, readAs: name, fingerprint: fingerprint(key, name, value) },
      places: name === 'URL' ? [{ path: 'dist/app.zip', inside: ['a.js'], offset: 1, length: 2 }] : [],
      ...(reach === 'public' && { modules: part.modules ?? ['src/main.ts'] }),
    })),
    ...(part.others !== false && { others: otherValues(now, key) }),
    key: keyMark(key),
    digests: new Map([['dist/a.js', 'd']]),
  });
}

const changes = (bundle: Bundle, before: Receipt, after: Record<string, string>, isBuilt = false) =>
  changesBetween(builtValues(before), currentValues(stageWith(bundle, after), key), { contract, bundle, isBuilt }).map(
    ({ variable, bundle: of, change, action }) => `${variable} ${of ?? '-'} ${change} ${action}`,
  );

describe('what to do after a change', () => {
  test.each<[title: string, bundle: Bundle, after: Record<string, string>, expected: string[]]>([
    ['nothing changed', desk, usual, []],
    ['an inlined value', desk, { ...usual, URL: 'x' }, ['URL desk changed rebuild']],
    ['a flag, which leaves no trace', desk, { ...usual, FLAG: 'false' }, ['FLAG desk changed rebuild']],
    ['a load-time value', desk, { ...usual, BANNER: 'on time' }, ['BANNER desk changed reload']],
    ['a build value', desk, { ...usual, TOKEN: 'token-2' }, ['TOKEN desk changed nothing']],
    ['a server value, seen from the browser bundle', desk, { ...usual, KEY: 'key-2' }, ['KEY - changed restart']],
    ['a server value', quay, { ...usual, KEY: 'key-2' }, ['KEY quay changed restart']],
    ['a load-time value of a server', quay, { ...usual, BANNER: 'on time' }, ['BANNER quay changed restart']],
    ['a value that is gone', desk, { ...usual, URL: '' }, ['URL desk changed rebuild']],
    ['a server value that this machine lacks', quay, { URL: 'x' }, ['BANNER quay removed restart']],
  ])('%s', (_, bundle, after, expected) => expect(changes(bundle, built(bundle, usual), after)).toEqual(expected));

  test('a value that no code reads and no file contains', () => {
    const before = built(desk, usual, { modules: [] });
    expect(changes(desk, before, { ...usual, FLAG: 'false', URL: 'x' })).toEqual([
      'FLAG desk changed nothing',
      'URL desk changed rebuild',
    ]);
  });

  test('receipts of earlier versions do not tell of load-time and server values', () => {
    const before = built(desk, usual, { others: false });
    expect(changes(desk, before, { ...usual, BANNER: 'on time', KEY: 'key-2', URL: 'x' })).toEqual([
      'URL desk changed rebuild',
    ]);
  });

  test('between builds, inlined values only need to be deployed', () => {
    expect(changes(desk, built(desk, usual), { ...usual, URL: 'x', BANNER: 'y' }, true)).toEqual([
      'BANNER desk changed reload',
      'URL desk changed redeploy',
    ]);
  });
});

describe('the reason for what to do', () => {
  const reasons = (bundle: Bundle, after: Record<string, string>, isBuilt = false, of = contract) =>
    changesBetween(builtValues(built(bundle, usual)), currentValues(stageWith(bundle, after), key), {
      contract: of,
      bundle,
      isBuilt,
    }).map(({ because, files }) => [because, files]);

  test.each<[title: string, bundle: Bundle, after: Record<string, string>, expected: [string, string[]]]>([
    ['inlined', desk, { ...usual, URL: 'x' }, ['inlined', ['dist/app.zip » a.js']]],
    ['load time', desk, { ...usual, BANNER: 'x' }, ['read from the values file when the page loads', []]],
    ['build', desk, { ...usual, TOKEN: 'x' }, ['was in no file of desk after the build', []]],
    ['server', desk, { ...usual, KEY: 'x' }, ['read by quay at the start', []]],
    ['server, load time', quay, { ...usual, BANNER: 'x' }, ['read by quay at the start', []]],
  ])('%s', (_, bundle, after, expected) => expect(reasons(bundle, after)).toEqual([expected]));

  test('of a value between builds', () => {
    expect(reasons(desk, { ...usual, URL: 'x' }, true)[0]?.[0]).toBe('inlined, and the later build has the new value');
  });

  test('of a value that no code reads', () => {
    const before = builtValues(built(desk, usual, { modules: [] }));
    const after = currentValues(stageWith(desk, { ...usual, FLAG: 'false' }), key);
    expect(changesBetween(before, after, { contract, bundle: desk, isBuilt: false })[0]?.because).toBe(
      'not read by the code of desk',
    );
  });

  test('names the server as such if the contract has no server bundle', () => {
    const bundles = new Map([['desk', desk]]);
    expect(reasons(desk, { ...usual, KEY: 'x' }, false, { ...contract, bundles })[0]?.[0]).toBe(
      'read by the server at the start',
    );
  });
});

describe('fingerprints of a stage', () => {
  test('tell values that a build gets from others, which are in no file', () => {
    const { values, hasOthers } = currentValues(stageWith(desk, usual), key);
    expect(hasOthers).toBe(true);
    expect([...values].map(([name, one]) => [name, one.isGiven, one.isUnused, one.files])).toEqual([
      ['URL', true, false, []],
      ['FLAG', true, false, []],
      ['TOKEN', true, false, []],
      ['BANNER', false, false, []],
      ['KEY', false, false, []],
    ]);
  });

  test('know whether a receipt has load-time values', () => {
    expect(builtValues(built(desk, usual, { others: false })).hasOthers).toBe(false);
    expect(builtValues(built(desk, usual)).hasOthers).toBe(true);
  });

  test('keep the source of load-time and server values', () => {
    const [first] = otherValues(stageWith(desk, usual), key);
    expect(first).toMatchObject({ name: 'BANNER', from: { layer: '.env', path: '.env', line: 3 } });
  });
});

test('each word has a command', () => {
  const about = {
    bundle: 'desk',
    rebuild: ['adder', 'with', 'production', '--bundle', 'desk'],
    reload: ['adder', 'emit', 'runtime'],
  };
  expect(
    (['nothing', 'reload', 'redeploy', 'rebuild', 'restart'] as const).map((action) => howTo(action, about)),
  ).toEqual([
    'nothing to do',
    'write the values file, and deploy it: adder emit runtime',
    'deploy the current build of desk',
    'rebuild: adder with production --bundle desk',
    'set the value on the host, and restart the server',
  ]);
  const receipt = built(desk, usual);
  expect(rebuildCommand('production', receipt, ['npm', 'run', 'build'])).toEqual(about.rebuild);
  expect(rebuildCommand('production', receipt, undefined)).toEqual([...about.rebuild, '--', 'npm', 'run', 'build']);
});

test('a receipt is read as it was written', () => {
  const receipt = built(desk, usual);
  expect(parseReceipt(JSON.stringify(receipt))).toEqual(receipt);
  expect(keyMark(key)).not.toBe(keyMark(new Uint8Array(32)));
});

test('two builds for a terminal, with what else differs', async () => {
  const [before, after] = [built(desk, usual), built(desk, { ...usual, URL: 'x' })];
  const found = changesBetween(builtValues(before), builtValues(after), { contract, bundle: desk, isBuilt: true });
  const commands = {
    rebuild: ['adder', 'with', 'production', '--bundle', 'desk'],
    reload: ['adder', 'emit', 'runtime'],
  };
  const report = buildsReport(
    [
      {
        ...comparedBuild(before, 'a.json'),
        revision: { id: '0123456789abcdef', dirty: false },
        contract: 'aaaa',
        tools: { node: '20.20.0', vite: '8.0.0' },
      },
      {
        ...comparedBuild(after, 'b.json'),
        revision: { id: 'fedcba9876543210', dirty: true },
        contract: 'bbbb',
        tools: { node: '20.20.0', vite: '8.0.1' },
      },
    ],
    { bundle: 'desk', same: 4, ...commands },
    found,
  );
  const options = { style: makeStyle(false), width: 100, tableWidth: Number.POSITIVE_INFINITY, quiet: false };
  const shown = await printers.text.print(report, options);
  for (const part of [
    'commit    0123456789ab → fedcba987654 with uncommitted changes',
    'contract  aaaa → bbbb',
    'vite      8.0.0 → 8.0.1',
    'redeploy  URL: inlined, and the later build',
    'URL was in dist/app.zip » a.js',
    '1 value differs, 4 the same',
  ])
    expect(shown).toContain(part);
  expect(shown).not.toContain('node ');
  expect(await printers.text.print({ ...report, changes: [] }, { ...options, quiet: true })).toBe(
    'no value differs, 4 the same\n',
  );
  const since = sinceLines(
    [{ bundle: 'desk', stage: 'production', builtAt: '2026-11-27T08:00:00.000Z', ...commands, changes: found }],
    options,
  );
  expect(since[0]).toBe('changed since the build of desk for production, 2026-11-27 08:00 UTC');
});
