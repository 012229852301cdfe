import { describe, expect, test } from 'vitest';
import { mentionsOf, namesReadIn } from '../../src/core/reads/mentions.js';
import { reportSchema } from '../../src/core/report/documents.js';
import { ferryProject, secrets, type TestProject } from '../support/adder.js';

const build = `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('dist/app.js', 'api("' + process.env.VITE_FERRY_API_URL + '")');`;

const project = (): TestProject =>
  ferryProject({
    '.env':
      'TIDE_CHART=true\nFERRY_API_URL=https://common.example\nNOTICE_BANNER="Sail with $FERRY_API_URL"\nSTRAY=made-up-stray-value\n',
    'src/api.js':
      'const api = import.meta.env.VITE_FERRY_API_URL;\n// VITE_FERRY_API_URL_2 is another one\nlog("VITE_FERRY_API_URL");\n',
    'build.mjs': build,
  });

describe('adder why', () => {
  test('each stage with what won and what lost, each bundle with its name, code and artifacts', () => {
    const ferries = project();
    ferries.adder(['with', 'production', '--', 'node', 'build.mjs']);
    const { code, report } = ferries.json(['why', 'FERRY_API_URL'], { FERRY_API_URL: 'https://shell.example' });
    expect(code).toBe(0);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(report.variable).toMatchObject({
      name: 'FERRY_API_URL',
      reach: 'public',
      declared: true,
      form: 'url',
      at: { path: 'adder.yaml' },
    });
    expect(report.stages[2]).toMatchObject({
      stage: 'production',
      state: 'set',
      value: 'https://shell.example',
      from: { layer: 'process' },
      overrides: [
        { path: '.env', line: 2 },
        { path: '.env.production', line: 1 },
      ],
      without: [],
    });
    expect(report.bundles).toEqual([
      {
        bundle: 'ticket-desk',
        name: 'VITE_FERRY_API_URL',
        code: [
          { path: 'src/api.js', line: 1, column: 29 },
          { path: 'src/api.js', line: 3, column: 6 },
        ],
        built: {
          stage: 'production',
          at: expect.any(String),
          places: [{ path: 'dist/app.js', offset: 5, length: 29 }],
          modules: ['src/api.js'],
        },
      },
    ]);
    expect(report.findings.map(({ code: one }: { code: string }) => one)).toEqual(['value/shadowed', 'value/shadowed']);
  });

  test('as text', () => {
    const { stdout } = project().adder(['why', 'NOTICE_BANNER']);
    expect(stdout).toContain(`production  set  Sail with https://api.saltmarsh.example
  from .env:3
  refers to FERRY_API_URL
  not in .env.production or process
`);
    expect(stdout).toContain(
      'ticket-desk  reads it as VITE_NOTICE_BANNER\n  not read by its code\n  no build receipt\n',
    );
  });

  test('a secret is masked, a name that is not declared is shown as such', () => {
    const ferries = project();
    for (const [name, said] of [
      ['FARE_SIGNING_KEY', 'set  [masked]'],
      ['STRAY', 'not in the contract, so its reach is server'],
    ] as const) {
      const ran = ferries.adder(['why', name]);
      expect(ran.stdout).toContain(said);
      ferries.expectNone([...Object.values(secrets), 'made-up-stray-value'], ran);
    }
    const json = ferries.adder(['why', 'FARE_SIGNING_KEY', '--format', 'json']);
    ferries.expectNone(Object.values(secrets), json);
  });

  test('an unknown name: the nearest of contract, layers and code', () => {
    expect(project().adder(['why', 'FERRY_URL'])).toEqual({
      code: 2,
      stdout: '',
      stderr: `adder: "FERRY_URL" is not in the contract, the layers or the code
  → did you mean FERRY_API_URL (in the contract); VITE_FERRY_API_URL (in the code)?
`,
    });
    expect(project().adder(['why', 'STRY']).stderr).toContain('STRAY (in the layers)');
  });

  test('names in code are whole words', () => {
    expect(mentionsOf('A_B', Buffer.from('A_B XA_B A_BC $A_B äA_B\n "A_B"'))).toEqual([
      { line: 1, column: 1 },
      { line: 2, column: 3 },
    ]);
    expect(namesReadIn('import.meta.env.A; process.env?.B; env.C')).toEqual(['A', 'B']);
  });
});

describe('adder compare', () => {
  test('what only one stage has comes first, then what differs', () => {
    const ferries = project();
    const ran = ferries.adder(['compare', 'staging', 'production'], { FERRY_API_URL: 'https://shell.example' });
    expect(ran.code).toBe(0);
    const rows = ran.stdout.split('\n').map((line) => line.split(/ {2,}/).join(' | '));
    expect(rows).toEqual([
      'adder compare | staging | production',
      '',
      'VARIABLE | REACH | staging | production | RELATION',
      'SOURCE_MAP_UPLOAD_TOKEN | build | [masked] | only production',
      'LEDGER_DATABASE_URL | server | [masked] | only production',
      'FERRY_API_URL | public | https://api.staging.saltmarsh.test | https://api.saltmarsh.example | different',
      'NOTICE_BANNER | public | Sail with https://api.staging.saltmarsh.test | Sail with https://api.saltmarsh.example | different',
      'FARE_SIGNING_KEY | server | [masked] | [masked] | different',
      'TIDE_CHART | public | true | true | same',
      '',
      '2 only production, 3 different, 1 same; no problems',
      '',
    ]);
    ferries.expectNone(Object.values(secrets), ran);
  });

  test('in JSON, with what the contract’s rules say about the two', () => {
    const contract = project()
      .read('adder.yaml')
      .replace('TIDE_CHART: { reach: public', 'TIDE_CHART: { distinct: true, reach: public');
    const ferries = ferryProject({ 'adder.yaml': contract });
    const { code, report } = ferries.json(['compare', 'staging', 'production']);
    expect(code).toBe(1);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(report.compared).toContainEqual({
      name: 'TIDE_CHART',
      reach: 'public',
      relation: 'same',
      first: 'true',
      second: 'true',
    });
    expect(report.compared).toContainEqual({ name: 'FARE_SIGNING_KEY', reach: 'server', relation: 'different' });
    expect(report.findings.map(({ code: one }: { code: string }) => one)).toEqual(['value/not-distinct']);
  });

  test.each([
    [
      ['compare', 'staging'],
      'adder: adder compare needs two stages or receipts\n  → usage: adder compare (STAGE | RECEIPT) (STAGE | RECEIPT)\n',
    ],
    [['compare', 'staging', 'prod'], 'adder: the contract has no stage "prod"\n  → did you mean production?\n'],
  ])('%j', (args, stderr) => expect(project().adder(args)).toEqual({ code: 2, stdout: '', stderr }));
});
