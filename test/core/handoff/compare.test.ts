import { describe, expect, test } from 'vitest';
import { needsOf } from '../../../src/core/build/needs.js';
import { credentialsOf, type Host } from '../../../src/core/contract/hosts.js';
import { noRules } from '../../../src/core/findings/judge.js';
import { compareHost, type HostNeeds } from '../../../src/core/handoff/compare.js';
import type { Listed } from '../../../src/core/handoff/listing.js';
import { planFor } from '../../../src/core/handoff/plan.js';
import { fillRequest, takesOneScope, wordsFor } from '../../../src/core/handoff/request.js';
import { handoffReport } from '../../../src/core/report/handoff.js';
import { printers } from '../../../src/core/report/printers.js';
import { makeStyle } from '../../../src/core/report/style.js';
import { reveal, Secret } from '../../../src/core/secrets/secret.js';
import { contractOf, diagnose, resolutionOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

const text = `adder: 1
stages: { production: { layers: [.env] } }
bundles:
  desk: { toolchain: vite, code: src, output: dist }
  quay: { runs: server, code: server }
variables:
  URL: { reach: public, form: url, bundles: [desk] }
  TOKEN: { reach: build, bundles: [desk] }
  KEY: { reach: server, aka: [OLD_KEY], min: 8 }
  LOG: { reach: server, required: false }
hosts:
  harbour:
    list:
      url: https://console.example/{stage}/values
      headers: { Authorization: "Bearer {HARBOUR_TOKEN}" }
    set:
      url: https://console.example/{stage}/values/{name}
      headers: { Authorization: "Bearer {HARBOUR_TOKEN}" }
      body: { name: "{name}", value: "{value}", scopes: "{scopes}", list: ["{scope}"], keep: 1 }
    scopes: { build: builds, server: runtime }
`;
const contract = contractOf(text);
const host = contract.hosts.get('harbour') as Host;
const env = 'URL=https://a.example\nTOKEN=token-0001\nKEY=key-of-quay-0001\n';
// No file is in the repository, so the pipeline provides all.
const resolution = resolutionOf(contract, 'production', env);

function asked(part: Partial<HostNeeds> = {}): HostNeeds {
  const needs = needsOf(contract, resolution, () => false);
  return { contract, host, stage: 'production', resolutions: [resolution], needs, ...part };
}

const listed = (name: string, value?: string, scopes?: Listed['scopes']): Listed => ({
  name,
  ...(value !== undefined && { value: new Secret(value) }),
  ...(scopes && { scopes }),
});
const all = [
  listed('URL', 'https://a.example', ['build']),
  listed('TOKEN', 'token-0001', ['build']),
  listed('KEY', undefined, ['server']),
];
const without = (name: string) => all.filter((one) => one.name !== name);

const states = (has: Listed[], needs = asked()) =>
  Object.fromEntries(
    compareHost(needs, has).rows.map(({ name, state, found }) => [name, found ? `${state} ${found}` : state]),
  );
const messages = (has: Listed[], needs = asked()) =>
  compareHost(needs, has)
    .findings.map(inWords)
    .map(({ code, message }) => `${code} ${message}`);

describe('a host against what the stage needs', () => {
  test('all there', () => {
    expect(states(all)).toEqual({ URL: 'same', TOKEN: 'same', KEY: 'hidden', LOG: 'absent' });
    expect(messages(all)).toEqual([]);
  });

  test.each<[title: string, has: Listed[], state: Record<string, string>, message: string]>([
    ['missing for builds', without('URL'), { URL: 'missing' }, 'host/missing harbour lacks URL, which builds need'],
    [
      'missing for the server',
      without('KEY'),
      { KEY: 'missing' },
      'host/missing harbour lacks KEY, which the running server needs',
    ],
    [
      'an older name',
      [...without('KEY'), listed('OLD_KEY')],
      { KEY: 'misspelt OLD_KEY' },
      'host/misspelt harbour has OLD_KEY, but the running server reads KEY',
    ],
    [
      'the name in code',
      [...without('URL'), listed('VITE_URL')],
      { URL: 'misspelt VITE_URL' },
      'host/misspelt harbour has VITE_URL, but builds read URL',
    ],
    [
      'a slip',
      [...without('TOKEN'), listed('TOKN')],
      { TOKEN: 'misspelt TOKN' },
      'host/misspelt harbour has TOKN, but builds read TOKEN',
    ],
    [
      'another value',
      [...without('URL'), listed('URL', 'https://b.example')],
      { URL: 'different' },
      'host/different URL on harbour differs from the value of production here',
    ],
    [
      'a malformed value',
      [...without('URL'), listed('URL', '"https://b.example"')],
      { URL: 'malformed' },
      'host/malformed URL on harbour ',
    ],
    [
      'a wrong scope',
      [...without('TOKEN'), listed('TOKEN', 'token-0001', ['server'])],
      { TOKEN: 'wrong-scope' },
      'host/wrong-scope harbour does not give TOKEN to builds',
    ],
    [
      'exposed',
      [...without('KEY'), listed('KEY', undefined, ['build', 'server'])],
      { KEY: 'exposed' },
      'host/exposed harbour gives KEY, a server-only variable, to builds',
    ],
    [
      'an unknown name',
      [...all, listed('STRAY')],
      { STRAY: 'extra' },
      'host/extra harbour has STRAY, which is not in the contract',
    ],
  ])('%s', (_, has, state, message) => {
    expect(states(has)).toMatchObject(state);
    expect(messages(has).join('\n')).toContain(message);
  });

  test('a host with a value for each scope has a row for each state', () => {
    const both = asked({ host: { ...host, holds: ['build', 'server'] } });
    const has = [
      ...without('TOKEN'),
      { ...listed('TOKEN', 'token-0002', ['build']), id: 'b' },
      { ...listed('TOKEN', 'token-0001', ['server']), id: 's' },
    ];
    const { rows, ids } = compareHost(both, has);
    expect(rows.filter(({ name }) => name === 'TOKEN').map(({ state, scopes }) => `${state} ${scopes}`)).toEqual([
      'different build',
      'same ',
    ]);
    expect(ids.get('TOKEN')).toBe('b');
    const same = [...all, listed('TOKEN', 'token-0001', ['server'])];
    expect(compareHost(both, same).rows.filter(({ name }) => name === 'TOKEN').length).toBe(1);
    expect(messages([...without('TOKEN'), listed('TOKEN', 'a', ['server']), listed('TOKEN', 'a', [])])).toContain(
      'host/wrong-scope harbour does not give TOKEN to builds',
    );
  });

  test('names of platforms, and names of the contract that it does not need, are no findings', () => {
    const has = [...all, listed('CI', '1'), listed('GITHUB_SHA', 'x')];
    expect(messages(has)).toEqual([]);
    const serverOnly = { ...host, holds: ['server' as const] };
    expect(states(all, asked({ host: serverOnly }))).toMatchObject({ URL: 'same', KEY: 'hidden' });
    expect(messages([listed('KEY')], asked({ host: serverOnly }))).toEqual([]);
  });

  test('a value that this machine lacks cannot be compared', () => {
    const empty = resolutionOf(contract, 'production', '');
    expect(states(all, asked({ resolutions: [empty] }))).toMatchObject({ URL: 'valid', TOKEN: 'valid', KEY: 'hidden' });
  });

  test('without `set`, the remedy is what to do by hand', () => {
    const { set: _, ...readOnly } = host;
    const [finding] = compareHost(asked({ host: readOnly }), without('URL'), {
      path: 'names.txt',
      inside: [],
    }).findings.map(inWords);
    expect(finding).toMatchObject({ remedy: 'set URL on harbour', place: { path: 'names.txt' } });
  });
});

describe('what is set', () => {
  const planned = (has: Listed[], named: string[] = [], needs = asked()) => {
    const { steps, without: left } = planFor(needs, compareHost(needs, has), named);
    return [
      steps.map(
        ({ name, replaces, scopes, value }) => `${replaces ? 'change' : 'set'} ${name} ${scopes} ${reveal(value)}`,
      ),
      left,
    ];
  };
  test('what is missing or wrong, and nothing else', () => {
    expect(planned(all)).toEqual([[], []]);
    expect(planned([listed('URL', 'x', ['build']), listed('TOKN')])).toEqual([
      ['change URL build https://a.example', 'set TOKEN build token-0001', 'set KEY server key-of-quay-0001'],
      [],
    ]);
  });
  test('a hidden value if it is named, unless it is equal', () => {
    expect(planned(all, ['KEY', 'URL'])).toEqual([['change KEY server key-of-quay-0001'], []]);
  });
  test('a value that is absent or invalid here is left out with the reason', () => {
    const here = resolutionOf(contract, 'production', 'URL=no-url\nTOKEN=token-0001\n');
    const needs = asked({ resolutions: [here] });
    expect(planned([], [], needs)).toEqual([
      ['set TOKEN build token-0001'],
      [
        { name: 'URL', because: expect.stringContaining('has no scheme') },
        { name: 'KEY', because: 'has no value here' },
      ],
    ]);
  });
});

describe('requests', () => {
  const values = { stage: 'pro duction', credentials: new Map([['HARBOUR_TOKEN', new Secret('made-up-token')]]) };
  test('the value goes into the body, the credential into the header, names are encoded in the URL', () => {
    if (host.set?.kind !== 'http') throw new Error('no request');
    const request = fillRequest(host.set.request, {
      ...values,
      name: 'KEY',
      value: new Secret('v"1'),
      scopes: ['builds', 'runtime'],
    });
    expect(request).toEqual({
      method: 'PUT',
      url: 'https://console.example/pro%20duction/values/KEY',
      headers: {
        accept: 'application/json',
        'content-type': 'application/json',
        Authorization: 'Bearer made-up-token',
      },
      body: JSON.stringify({ name: 'KEY', value: 'v"1', scopes: ['builds', 'runtime'], list: ['builds'], keep: 1 }),
    });
  });
  test('a value that looks like a placeholder is not filled again', () => {
    if (host.set?.kind !== 'http') throw new Error('no request');
    const { body } = fillRequest(host.set.request, {
      ...values,
      name: 'KEY',
      value: new Secret('{name}{HARBOUR_TOKEN}'),
    });
    expect(JSON.parse(body ?? '').value).toBe('{name}{HARBOUR_TOKEN}');
  });
  test('scopes and credentials', () => {
    expect(wordsFor(['build', 'server'], host.words)).toEqual(['builds', 'runtime']);
    expect([
      takesOneScope({ a: '{scope}' }),
      takesOneScope({ a: '{scope}', b: '{scopes}' }),
      takesOneScope('x'),
    ]).toEqual([true, false, false]);
    expect(credentialsOf(host)).toEqual(['HARBOUR_TOKEN']);
  });
});

test('problems of an entry are at their lines', () => {
  const wrong = text.replace(
    'https://console.example/{stage}/values\n',
    'https://console.example/?t={HARBOUR_TOKEN}\n',
  );
  expect(diagnose(wrong).join('\n')).toMatch(
    /^adder\.yaml:14:12 contract\/unreadable: the URL contains \{HARBOUR_TOKEN\}/,
  );
});

test('the report for a terminal: states in words, what was set, what could not be', async () => {
  const { rows, findings } = compareHost(asked(), [...without('KEY'), listed('KY')]);
  const report = handoffReport(
    'production',
    [
      {
        host: 'harbour',
        source: 'https://console.example/',
        rows,
        applied: [{ name: 'KEY' }, { name: 'URL', because: 'failed (status 500)' }],
        without: [{ name: 'LOG', because: 'has no value here' }],
      },
      { host: 'island', source: 'command island', rows: [], because: 'exited with code 1' },
      { host: 'empty', source: 'names.txt', rows: [] },
    ],
    findings,
    noRules,
    '2026-11-27',
  );
  const options = { style: makeStyle(false), width: 100, tableWidth: Number.POSITIVE_INFINITY, quiet: false };
  const shown = await printers.text.print(report, options);
  for (const part of [
    'misspelt as KY',
    'set on harbour: KEY',
    'not set on harbour: URL: harbour failed (status 500)',
    'not set on harbour: LOG has no value here',
    'could not be compared: exited with code 1',
    'needs no values',
  ])
    expect(shown).toContain(part);
  expect(
    await printers.text.print(
      { ...report, findings: [], summary: { error: 0, warning: 0, note: 0, accepted: 0 } },
      options,
    ),
  ).toContain('no problems in what could be compared');
  expect(JSON.parse(await printers.json.print(report, options)).hosts).toHaveLength(3);
});
