import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { secrets, TestProject } from '../support/adder.js';
import { needsUnix } from '../support/windows.js';

const key = secrets.FARE_SIGNING_KEY;

/** A project with one stage of these layers. */
function projectWith(layers: string, files: Record<string, string | Uint8Array> = {}): TestProject {
  const contract = `adder: 1
stages: { production: { layers: ${layers} } }
variables:
  API_BASE_URL: { reach: public, form: url, required: false }
  FARE_SIGNING_KEY: { reach: server, required: false }
`;
  return new TestProject({ 'adder.yaml': contract, ...files });
}

describe('layers of other kinds', () => {
  test('JSON and YAML files, with the line of each value', () => {
    const project = projectWith('[config.json, more/settings.yaml]', {
      'config.json': '{\n  "api": { "baseUrl": "https://a.example" }\n}',
      'more/settings.yaml': `fareSigningKey: ${key}\n`,
    });
    const { report } = project.json(['values', 'production']);
    expect(report.values.map(({ state, from }: { state: string; from: object }) => [state, from])).toEqual([
      ['set', { layer: 'config.json', path: 'config.json', line: 2, column: 12 }],
      ['set', { layer: 'more/settings.yaml', path: 'more/settings.yaml', line: 1, column: 1 }],
    ]);
    expect(JSON.stringify(report)).not.toContain(key);
  });

  test.each<[path: string, bytes: string | Uint8Array, missing: number]>([
    ['.env', Buffer.from('\ufeffFARE_SIGNING_KEY=x\n', 'utf16le'), 0],
    ['.env', '{\\rtf1 FARE_SIGNING_KEY=x}', 0],
    ['values.json', '{ "fareSigningKey": ', 0],
    ['values.yaml', 'fareSigningKey: [', 0],
    ['values.ts', 'export const a = {', 0],
    ['.env', '# nothing yet\n', 1],
    ['values.json', '{}', 1],
  ])('%s gives one error: the file if it is unreadable, the missing value if it is empty', (path, bytes, missing) => {
    const project = projectWith(`[${path}]`, { [path]: bytes });
    project.write('adder.yaml', project.read('adder.yaml').replace('reach: server, required: false', 'reach: server'));
    const { code, report } = project.json(['values', 'production']);
    const codes = report.findings.map((one: { code: string }) => one.code);
    expect([code, codes.length, codes.filter((one: string) => one === 'value/missing').length]).toEqual([
      1,
      1,
      missing,
    ]);
    expect(report.values.at(-1).state).toBe('missing');
  });

  test('what a command prints', () => {
    const project = projectWith('[{ command: [node, store.mjs, FARE_SIGNING_KEY] }]', {
      'store.mjs': `console.log(process.argv[2] + '=${key}')`,
    });
    const ran = project.adder(['values', 'production']);
    expect(ran.stdout).toMatch(/FARE_SIGNING_KEY +server +\[masked\] +command node +set/);
    project.expectNone([key], ran);
  });

  test.each<[title: string, layer: string, said: string]>([
    [
      'fails',
      `{ command: [node, -e, "console.error('${key}'); process.exit(3)"] }`,
      'the layer "command node" exited with code 3',
    ],
    ['is not there', '{ command: [no-such-store] }', 'the layer "command no-such-store" was not found'],
    [
      'takes too long',
      '{ command: [node, -e, "setInterval(() => {}, 100)"], seconds: 0.5 }',
      'the layer "command node" was stopped after 0.5 seconds',
    ],
    [
      'must exist',
      '{ file: .env.production, must-exist: true }',
      'the layer .env.production does not exist, but the contract has `must-exist: true`',
    ],
  ])('a layer that %s: exit code 2, and none of its output', (_, layer, said) => {
    const project = projectWith(`[${layer}]`);
    const ran = project.adder(['values', 'production']);
    expect([ran.code, ran.stdout]).toEqual([2, '']);
    expect(ran.stderr).toContain(said);
    project.expectNone([key], ran);
  });

  test('a file with nearly the name of an absent layer', () => {
    expect(projectWith('[.env]', { '.env.txt': 'A=b' }).adder(['values', 'production']).stdout).toContain(
      '.env is missing, and .env.txt has nearly the same name',
    );
  });
});

describe('adder values --all', () => {
  const contract = `adder: 1
stages:
  development: { layers: [.env, .env.development, process] }
  staging: { layers: [.env, .env.staging, process] }
  production: { layers: [.env, .env.production, process] }
variables:
  FERRY_API_URL: { reach: public, form: url, distinct: true }
  FARE_SIGNING_KEY: { reach: server, distinct: true }
`;
  const project = () =>
    new TestProject({
      'adder.yaml': contract,
      '.env': 'STRAY\n',
      '.env.development': 'FERRY_API_URL=http://localhost:4180\n',
      '.env.staging': `FERRY_API_URL=api.test\nFARE_SIGNING_KEY=${key}\n`,
      '.env.production': `FERRY_API_URL=https://a.example\nFARE_SIGNING_KEY=${key}\n`,
    });

  test('every stage side by side, and what to do first', () => {
    const ran = project().adder(['values', '--all']);
    expect(ran.code).toBe(1);
    expect(ran.stdout).toContain(`adder values  all stages

VARIABLE          REACH   development            staging    production
FERRY_API_URL     public  http://localhost:4180  malformed  https://a.example
FARE_SIGNING_KEY  server  missing                [masked]   [masked]
`);
    expect(ran.stdout).toContain(`What to do
1. fix the lines that cannot be parsed
   .env:1
2. set the missing values, such as with \`adder fill STAGE\`
   development: FARE_SIGNING_KEY
3. fix the wrong values
   staging: FERRY_API_URL
4. fix values that stages must not share
   FARE_SIGNING_KEY
`);
    expect(ran.stdout.match(/the line has no =/g)).toHaveLength(1);
    expect(ran.stdout.replace(/\s+/g, ' ')).toContain(
      'FARE_SIGNING_KEY has no value in development. Searched: .env, .env.development, process environment. Set in: staging, production value/missing',
    );
    project().expectNone([key], ran);
  });

  test('in JSON', () => {
    const { code, report } = project().json(['values', '--all']);
    expect(code).toBe(1);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(
      report.stages.map(({ stage, values }: { stage: string; values: { state: string }[] }) => [
        stage,
        ...values.map(({ state }) => state),
      ]),
    ).toEqual([
      ['development', 'set', 'missing'],
      ['staging', 'malformed', 'set'],
      ['production', 'set', 'set'],
    ]);
  });

  test('the environment of one stage says nothing about another: a pipeline has its own values there', () => {
    const inOrder = new TestProject({
      'adder.yaml': contract,
      '.env.staging': 'FERRY_API_URL=https://s.example\nFARE_SIGNING_KEY=staging-key\n',
    });
    const env = { FERRY_API_URL: 'https://p.example', FARE_SIGNING_KEY: 'production-key' };
    expect(inOrder.adder(['values', 'production'], env).code).toBe(0);
    const shared = inOrder.json(['values', 'production'], { ...env, FARE_SIGNING_KEY: 'staging-key' });
    expect(
      shared.report.findings.map(({ code, message }: { code: string; message: string }) => [code, message]),
    ).toEqual([
      [
        'value/not-distinct',
        'production and staging have the same FARE_SIGNING_KEY (process environment and .env.staging:2), which must be distinct',
      ],
    ]);
  });

  test('a stage beside --all is an error', () => expect(project().adder(['values', 'staging', '--all']).code).toBe(2));

  test('a name to reveal that does not exist is an error', () => {
    const { code, stderr } = project().adder(['values', '--all', '--reveal', 'NOWHERE']);
    expect(code).toBe(2);
    expect(stderr).toContain('no such variable');
  });
});

needsUnix('a module with an object for each stage: a note of lint, and no other stage in the bundle', () => {
  const settings = `export const development = { apiUrl: 'https://dev.saltmarsh.test' };
export const production = { apiUrl: 'https://api.saltmarsh.example' };
`;
  const project = new TestProject({
    'adder.yaml': `adder: 1
stages:
  development: { layers: [{ file: src/settings.js, key: development }] }
  production: { layers: [{ file: src/settings.js, key: production }] }
bundles: { desk: { toolchain: vite, code: src, output: dist } }
variables: { API_URL: { reach: public, form: url, distinct: true } }
`,
    'src/settings.js': settings,
    'src/main.js': "import { production } from './settings.js';\ndocument.title = production.apiUrl;\n",
    'dist/app.js': settings,
  });
  expect(project.json(['values', '--all'])).toMatchObject({ code: 0, report: { findings: [] } });
  const { code, report } = project.json(['lint']);
  expect([code, report.findings.map(({ level, message }: Record<string, string>) => `${level} ${message}`)]).toEqual([
    0,
    ['note src/settings.js ships the values of every stage: development and production'],
  ]);
  expect(project.json(['inspect', '--stage', 'production'])).toMatchObject({ code: 0, report: { findings: [] } });
  project.write('dist/app.js', "title = 'https://dev.saltmarsh.test'");
  expect(project.json(['inspect', '--stage', 'production']).report.findings).toMatchObject([
    { code: 'stage/foreign-value', variable: 'API_URL' },
  ]);
});

test('a key of an env file is a mistake in the contract', () => {
  const project = new TestProject({
    'adder.yaml': 'adder: 1\nstages: { qa: { layers: [{ file: .env, key: qa }] } }\n',
  });
  expect(project.adder(['values', 'qa']).stdout).toContain('.env is an env file and has no keys');
});
