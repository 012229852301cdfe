import { describe, expect, test } from 'vitest';
import { crossStageFindings } from '../../../src/core/resolve/cross-stage.js';
import { noFacts } from '../../../src/core/resolve/env-findings.js';
import { readFileLayer } from '../../../src/core/resolve/file-layer.js';
import { joinedName } from '../../../src/core/resolve/keyed.js';
import { readCommandLayer, readEnvFileLayer, readProcessLayer } from '../../../src/core/resolve/layers.js';
import { misnamedFinding } from '../../../src/core/resolve/misnamed.js';
import { readModuleLayer } from '../../../src/core/resolve/module.js';
import { reachOf, resolveStage } from '../../../src/core/resolve/resolve.js';
import { readStructuredLayer } from '../../../src/core/resolve/structured.js';
import { reveal } from '../../../src/core/secrets/secret.js';
import { contractOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

/** Resolves one variable `V` of a contract in one stage from an env file. */
function resolve(variable: string, env: string, stage = 'production') {
  const contract = contractOf(
    `adder: 1\nstages: { development: { layers: [.env] }, production: { layers: [.env] } }\nvariables:\n  V: ${variable}\n`,
  );
  const isPublic = (name: string) => reachOf(contract, name) === 'public';
  const layer = readEnvFileLayer('.env', '.env', Buffer.from(env), {
    isPublic,
    isDeclared: (name) => contract.variables.has(name),
  });
  const resolution = resolveStage(contract, contract.stages.get(stage) ?? expect.unreachable(), [layer]);
  const { state, value } = resolution.values.get('V') ?? expect.unreachable();
  return {
    state,
    value: value && reveal(value),
    said: resolution.findings
      .filter(({ code }) => code !== 'value/ambiguous')
      .map(inWords)
      .map(({ code, message }) => `${code}: ${message}`),
  };
}

describe('rules over values', () => {
  test.each<[variable: string, env: string, said: string | undefined]>([
    ['{ reach: public, max: 3 }', 'V=abcd', 'V has 4 characters; the maximum is 3'],
    ['{ reach: public, max: 4 }', 'V=abcd', undefined],
    ['{ reach: public, min: 4 }', 'V=abcd', undefined],
    ['{ reach: public, min: 5 }', 'V=abcd', 'V has 4 characters; the minimum is 5'],
    ['{ reach: public, form: port, max: 4180 }', 'V=4180', undefined],
    ['{ reach: public, form: port, min: 4180 }', 'V=4180', undefined],
    ['{ reach: public, form: port, min: 4181 }', 'V=4180', 'V is less than 4181'],
    ['{ reach: public, form: port, max: 1024 }', 'V=4180', 'V is more than 1024'],
    ["{ reach: public, pattern: '[a-z]+-\\d' }", 'V=pier-1', undefined],
    ["{ reach: public, pattern: '[a-z]+' }", 'V=pier-1', 'V does not match the pattern [a-z]+'],
    ['{ reach: public, form: url, https: true }', 'V=http://a.example', 'V is not https, which production requires'],
    ['{ reach: public, form: url, https: [development] }', 'V=http://a.example', undefined],
    [
      '{ reach: public, form: url, slash: never }',
      'V=https://a.example/',
      'V ends with a slash, but code appends paths to it',
    ],
    ['{ reach: public, slash: never }', 'V=/a', undefined],
    ['{ reach: public, slash: always }', 'V=/a', 'V does not end with a slash'],
    ['{ reach: public, form: url, slash: always }', 'V=https://a.example', 'V does not end with a slash'],
  ])('%s with %s', (variable, env, said) => {
    const { state, said: all } = resolve(variable, env);
    expect([state, all]).toEqual(said ? ['malformed', [`value/malformed: ${said}`]] : ['set', []]);
  });
});

describe('valid but unlikely values', () => {
  const stripe = ['sk', 'live', 'madeup00madeup00madeup00'].join('_');
  const publishable = ['pk', 'live', 'madeup00madeup00madeup00'].join('_');
  test.each<[title: string, variable: string, env: string, said: string[]]>([
    ['white space', 'public', 'V=" a"', ['value/untidy: V has white space at its start or end']],
    ['a line break', 'public', 'V="a\\n"', ['value/untidy: V ends with a line break']],
    ['quotes in quotes', 'public', `V='"a"'`, ['value/untidy: V includes the quotes around it']],
    [
      'an address of one machine',
      'public',
      'V=http://localhost:8080/x',
      ['stage/local-address: V is an address that only one machine or network has, in production, which ships'],
    ],
    [
      'an address of one network',
      'public',
      'V=192.168.0.4',
      ['stage/local-address: V is an address that only one machine or network has, in production, which ships'],
    ],
    ['an address of one machine, for a server', 'server', 'V=http://localhost:8080/x', []],
    ['another address', 'public', 'V=https://localhost.example', []],
    ['a filler', 'server', 'V=change-me', ['value/placeholder: V is a placeholder in production, which ships']],
    [
      'the example',
      '{ reach: public, example: https://x.example }',
      'V=https://x.example',
      ['value/placeholder: V is a placeholder in production, which ships'],
    ],
    [
      'a secret key in a public variable',
      'public',
      `V=${stripe}`,
      ['contract/risky-public: V is public and has the shape of a payment service secret key'],
    ],
    [
      'a publishable key where the secret one belongs',
      'server',
      `V=${publishable}`,
      ['value/untidy: V has the shape of a payment service publishable key, but should be a secret key'],
    ],
    ['a publishable key where it belongs', 'public', `V=${publishable}`, []],
    ['an older name', '{ reach: public, aka: [OLD] }', 'OLD=a', ['value/old-name: OLD is an old name of V']],
    [
      'NODE_ENV',
      'public',
      'V=a\nNODE_ENV=production',
      ['value/undeclared: NODE_ENV is set here, but does not select the stage: each command names its stage'],
    ],
  ])('%s', (_, variable, env, said) => expect(resolve(variable, env).said).toEqual(said));

  test('an address of one machine in a stage that does not ship', () =>
    expect(resolve('public', 'V=http://localhost:8080', 'development').said).toEqual([]));

  test.each<[what: string, more: string, bundle: string, said: number]>([
    ['is fine if the site is on this machine too', '', 'served: { production: "http://127.0.0.1:4000/" }', 0],
    ['is fine if the stage builds for developers', ', build-as: development', '', 0],
    ['is a warning for another site', '', 'served: { production: "https://shop.example/" }', 1],
  ])('an address of one machine %s', (_, more, bundle, said) => {
    const contract = contractOf(
      `adder: 1\nstages: { production: { layers: [.env]${more} } }\nbundles: { desk: { ${bundle} } }\nvariables: { V: public }\n`,
    );
    const layer = readEnvFileLayer('.env', '.env', Buffer.from('V=http://localhost:1'), noFacts);
    const { findings } = resolveStage(contract, contract.stages.get('production') ?? expect.unreachable(), [layer]);
    expect(findings.filter(({ code }) => code === 'stage/local-address')).toHaveLength(said);
  });

  test('on a developer’s machine a filler is no news', () =>
    expect(resolve('server', 'V=change-me', 'development').said).toEqual([]));

  test('a public variable with the name of a secret', () => {
    const contract = contractOf(
      'adder: 1\nstages: { production: { layers: [process] } }\nvariables: { CLIENT_SECRET: public, MAP_TILES_KEY: public }\n',
    );
    const layer = readProcessLayer({ CLIENT_SECRET: 'a', MAP_TILES_KEY: 'b' }, contract.variables.keys());
    const { findings } = resolveStage(contract, contract.stages.get('production') ?? expect.unreachable(), [layer]);
    expect(findings.map(({ code, variable }) => [code, variable])).toEqual([
      ['contract/risky-public', 'CLIENT_SECRET'],
    ]);
  });

  test('the present name wins over an older one of the same layer, a later layer over both', () => {
    expect(resolve('{ reach: public, aka: [OLD] }', 'V=new\nOLD=old').value).toBe('new');
    expect(resolve('{ reach: public, aka: [OLD] }', 'OLD=a\nV=$OLD:b').value).toBe('a:b');
  });
});

describe('JSON and YAML layers', () => {
  const read = (path: string, text: string) => {
    const { offers, findings } = readStructuredLayer(path, path, text);
    return {
      values: Object.fromEntries(offers.map(({ name, value }) => [name, value.kind === 'plain' && reveal(value.text)])),
      places: offers.map(({ source }) => `${source.line}:${source.column}`),
      said: findings
        .map(inWords)
        .map(({ code, place, message }) => `${place?.line}:${place?.column} ${code}: ${message}`),
    };
  };

  test.each([
    [['api', 'baseUrl'], 'API_BASE_URL'],
    [['HTTPServer', 'port-number'], 'HTTP_SERVER_PORT_NUMBER'],
    [['oauth2Client.id'], 'OAUTH2_CLIENT_ID'],
  ])('%j is %s', (keys, name) => expect(joinedName(keys)).toBe(name));

  test('nested keys, values as their JSON text, null offers nothing', () => {
    const json =
      '{\n  "api": { "baseUrl": "https://$a", "retries": 3, "on": true, "off": null },\n  "piers": ["n", 2]\n}';
    expect(read('c.json', json)).toEqual({
      values: { API_BASE_URL: 'https://$a', API_RETRIES: '3', API_ON: 'true', PIERS: '["n",2]' },
      places: ['2:12', '2:37', '2:51', '3:3'],
      said: [],
    });
    expect(read('c.yaml', 'api:\n  baseUrl: x\npiers: [n]\n').values).toEqual({ API_BASE_URL: 'x', PIERS: '["n"]' });
    expect(read('c.yaml', '')).toEqual({ values: {}, places: [], said: [] });
  });

  test.each<[title: string, path: string, text: string, said: string[]]>([
    [
      'two keys that become one name',
      'c.json',
      '{"aB": 1,\n"a_b": 2}',
      ['2:1 value/duplicate: A_B is set twice: line 1 sets it too, and this line wins'],
    ],
    ['not JSON', 'c.json', '{"a": }x', ['1:7 file/syntax: not valid JSON from here on']],
    ['no map', 'c.yaml', '- a', ['1:1 file/syntax: the file must be a map of names to values']],
    [
      'a key that becomes no name',
      'c.json',
      '{"2fa": "x"}',
      ['1:2 file/syntax: the key "2FA" cannot be a variable name'],
    ],
    ['an alias', 'c.yaml', 'a: &x 1\nb: *x\n', ['2:1 file/syntax: B is an alias (*name)']],
    ['an alias in a list', 'c.yaml', 'a: &x [1]\nb: [[*x]]\n', ['2:1 file/syntax: B is an alias (*name)']],
  ])('%s', (_, path, text, said) => expect(read(path, text).said).toEqual(said));
});

describe('modules of constants, read and never run', () => {
  const read = (path: string, text: string, key?: string) => {
    const { offers, findings } = readModuleLayer(path, path, text, key);
    return {
      values: Object.fromEntries(offers.map(({ name, value }) => [name, value.kind === 'plain' && reveal(value.text)])),
      said: findings
        .map(inWords)
        .map(({ place, level, message }) => `${place?.line}:${place?.column} ${level}: ${message}`),
    };
  };

  test('the keys of the only exported object, constants followed', () => {
    const text = `import type { Env } from './env';
const host = 'https://api.example' as const;
const base = { retries: -3, on: true };
export const environment: Env = { production: true, api: { url: host, ...base }, piers: ['n', 2], none: null } as const;`;
    expect(read('environment.prod.ts', text)).toEqual({
      values: {
        PRODUCTION: 'true',
        API_URL: 'https://api.example',
        API_RETRIES: '-3',
        API_ON: 'true',
        PIERS: '["n",2]',
      },
      said: [],
    });
  });

  test.each([
    ['export default { a: 1 }', { A: '1' }],
    ['module.exports = { a: `x` }', { A: 'x' }],
    ['export const apiUrl = "u"; export const flags = { dark: false }', { API_URL: 'u', FLAGS_DARK: 'false' }],
    ['const a = "x"; export { a as apiKey }', { API_KEY: 'x' }],
  ])('%s', (text, values) => expect(read('c.js', text)).toEqual({ values, said: [] }));

  test.each([
    ['export default { a: f() }', '1:21 warning: A is computed when the module runs'],
    ['export default {\n  ...base }', '2:3 warning: the module spreads an object from another module'],
    ['export default { [k]: 1 }', '1:19 warning: the module has a computed key'],
    ['f()', '1:1 undefined: the module exports no constant'],
    ['export default {', '1:17 undefined: the module cannot be parsed from here on'],
  ])('%s: %s', (text, said) => expect(read('c.js', text)).toEqual({ values: {}, said: [said] }));
});

describe('the values under one key of a file', () => {
  const table = 'const all = { dev: { url: f(), on: false }, prod: { apiUrl: "u", map: { key: "k" } }, 3: g() };';
  const json = '{ "dev": { "2": 1 }, "prod": { "apiUrl": "u", "map": { "key": "k" } } }';
  test.each([
    ['an exported object', 'c.ts', `${table} export default all;`],
    ['an object that the code indexes by stage', 'c.ts', `${table} export default all[import.meta.env.MODE];`],
    ['exports', 'c.js', 'export const dev = { a: f() }; export const prod = { apiUrl: "u", map: { key: "k" } };'],
    ['JSON', 'c.json', json],
    ['YAML', 'c.yaml', 'dev: { url: &u x }\nprod:\n  apiUrl: u\n  map: { key: k }\nqa: { url: *u }\n'],
  ])('%s', (_, path, text) => {
    const { offers, findings } = readFileLayer(path, Buffer.from(text), noFacts, 'prod');
    expect(offers.map(({ name, value }) => [name, value.kind === 'plain' && reveal(value.text)])).toEqual([
      ['API_URL', 'u'],
      ['MAP_KEY', 'k'],
    ]);
    expect(findings).toEqual([]);
  });

  test.each([
    ['c.ts', `${table} export default all;`],
    ['c.json', json],
  ])('%s without the key', (path, text) => {
    const { offers, findings } = readFileLayer(path, Buffer.from(text), noFacts, 'staging');
    expect(offers).toEqual([]);
    expect(findings.map(inWords).map(({ message }) => message)).toEqual([
      `${path} has no values under the key "staging"`,
    ]);
  });
});

test('a command layer is JSON or an env file, and none of its lines is shown', () => {
  const names = (text: string) =>
    readCommandLayer('command ./values-of', Buffer.from(text)).offers.map(({ name, source }) => [name, source]);
  expect(names(' {"a": "x"}')).toEqual([['A', { layer: 'command ./values-of', line: 1, column: 3 }]]);
  expect(names('A=x\n')).toEqual([['A', { layer: 'command ./values-of', line: 1, column: 1 }]]);
  const { findings } = readCommandLayer('command ./values-of', Buffer.from('A="hush'));
  expect(findings.map(inWords)).toMatchObject([
    { code: 'file/syntax', message: 'command ./values-of: this quote is never closed' },
  ]);
  expect(JSON.stringify(findings)).not.toContain('hush');
});

test('values that must differ between the stages, and values that must not', () => {
  const contract = contractOf(
    `adder: 1
stages: { development: { layers: [.d] }, staging: { layers: [.s] }, production: { layers: [.p] } }
variables: { KEY: { reach: server, distinct: true, required: false }, SEASON: { reach: public, same: true } }
`
      .replaceAll('[.d]', '[.env.d]')
      .replaceAll('[.s]', '[.env.s]')
      .replaceAll('[.p]', '[.env.p]'),
  );
  const files: Record<string, string> = {
    '.env.d': 'KEY=hush\nSEASON=summer',
    '.env.s': 'SEASON=summer\nKEY=hush',
    '.env.p': 'KEY=other\nSEASON=winter',
  };
  const resolutions = [...contract.stages.values()].map((stage) =>
    resolveStage(
      contract,
      stage,
      stage.layers.map(({ name }) => readEnvFileLayer(name, name, Buffer.from(files[name] ?? ''), noFacts)),
    ),
  );
  const said = (asked?: string) =>
    crossStageFindings(contract, resolutions, asked)
      .map(inWords)
      .map(({ code, message, place }) => `${code} ${place?.path}:${place?.line}: ${message}`);
  expect(said()).toEqual([
    'value/not-distinct .env.d:1: development and staging have the same KEY (.env.d:1 and .env.s:2), which must be distinct',
    'value/not-same .env.d:2: development and production differ in SEASON (.env.d:2 and .env.p:2), which must be the same',
    'value/not-same .env.s:1: staging and production differ in SEASON (.env.s:1 and .env.p:2), which must be the same',
  ]);
  expect(said('production').map((text) => text.split(':')[2]?.trim())).toEqual([
    'production and development differ in SEASON (.env.p',
    'production and staging differ in SEASON (.env.p',
  ]);
  expect(said().join()).not.toContain('hush');
});

describe('one secret in two stages', () => {
  const said = (variable: string, staging: string, production: string) => {
    const contract = contractOf(
      `adder: 1\nstages: { development: { layers: [.env.d] }, staging: { layers: [.env.s] }, production: { layers: [.env.p] } }\nvariables:\n  FARE_SECRET: ${variable}\n`,
    );
    const texts = ['FARE_SECRET=hush-a\n', staging, production];
    const resolutions = [...contract.stages.values()].map((stage, index) =>
      resolveStage(contract, stage, [
        readEnvFileLayer(stage.name, stage.name, Buffer.from(texts[index] ?? ''), noFacts),
      ]),
    );
    return crossStageFindings(contract, resolutions)
      .map(inWords)
      .map(({ level, message }) => `${level}: ${message}`);
  };

  test.each<[variable: string, staging: string, production: string, told: string | undefined]>([
    ['server', 'FARE_SECRET=hush-b', 'FARE_SECRET=hush-b', 'staging and production'],
    ['server', 'FARE_SECRET=hush-a', 'FARE_SECRET=hush-a', 'development, staging and production'],
    ['server', 'FARE_SECRET=hush-b', 'FARE_SECRET=hush-c', undefined],
    ['{ reach: server, distinct: false }', 'FARE_SECRET=hush-b', 'FARE_SECRET=hush-b', undefined],
    [
      '{ reach: server, same: true, required: [staging, production] }',
      'FARE_SECRET=hush-a',
      'FARE_SECRET=hush-a',
      undefined,
    ],
  ])('%s with %s and %s: %s', (variable, staging, production, told) => {
    const all = said(variable, staging, production);
    expect(all.join()).not.toContain('hush');
    if (told) expect(all).toEqual([expect.stringContaining(`warning: ${told} have the same FARE_SECRET (`)]);
    else expect(all).toEqual([]);
  });
});

test.each<[stage: string, last: string, told: boolean]>([
  ['production', '.env.production.local', true],
  ['production', '.env.production', false],
  ['development', '.env.local', false],
])('in %s, a value of %s over another: told is %s', (name, last, told) => {
  const contract = contractOf(`adder: 1\nstages: { ${name}: { layers: [.env, ${last}] } }\nvariables:\n  V: public\n`);
  const layers = ['.env', last].map((file, index) =>
    readEnvFileLayer(file, file, Buffer.from(`V=${index}`), { isPublic: () => true, isDeclared: () => true }),
  );
  const { findings } = resolveStage(contract, contract.stages.get(name) ?? expect.unreachable(), layers);
  const message = `${last}:1, a local file, wins over .env:1 with a different V in ${name}, which ships`;
  expect(findings.map(inWords).map((one) => [one.code, one.message])).toEqual(
    told ? [['value/shadowed', message]] : [],
  );
});

test('in a stage that ships, a local file with the same value as the file under it is not reported', () => {
  const files = ['.env', '.env.production.local'];
  const contract = contractOf(
    `adder: 1\nstages: { production: { layers: [${files.join(', ')}] } }\nvariables:\n  V: public\n`,
  );
  const layers = files.map((file) =>
    readEnvFileLayer(file, file, Buffer.from('V=1'), { isPublic: () => true, isDeclared: () => true }),
  );
  const stage = contract.stages.get('production') ?? expect.unreachable();
  expect(resolveStage(contract, stage, layers).findings).toEqual([]);
});

test.each<[layer: string, names: string[], found: string | undefined]>([
  ['.env', ['.env.txt'], '.env.txt'],
  ['.env', ['env'], 'env'],
  ['.env', ['.evn'], '.evn'],
  ['.env', ['.env.js'], '.env.js'],
  ['.env.production', ['.env .production'], '.env .production'],
  ['.env.production', ['.env.prodution'], '.env.prodution'],
  ['config/.env', ['.env.txt'], 'config/.env.txt'],
  ['.env', ['.env.local', '.eslintrc', 'README.md', '.git'], undefined],
  ['.env.production', ['.env.development', '.env'], undefined],
])('%s absent beside %j: %s', (layer, names, found) =>
  expect(misnamedFinding(layer, names, ['.env.local'])?.place?.path).toBe(found),
);
