import { chmodSync, mkdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { ferryContract, ferryProject, secrets, TestProject } from '../support/adder.js';

describe('adder values', () => {
  test('shows public values, masks others, and says where each came from', () => {
    const { code, stdout, stderr } = ferryProject().adder(['values', 'production']);
    expect(code).toBe(0);
    expect(stderr).toBe('');
    expect(stdout).toBe(`adder values  production
layers (the last one wins): .env, .env.production, process

VARIABLE                 REACH   VALUE                          FROM               STATE
FERRY_API_URL            public  https://api.saltmarsh.example  .env.production:1  set
TIDE_CHART               public  true                           .env:1             set
NOTICE_BANNER            public                                                    optional
SOURCE_MAP_UPLOAD_TOKEN  build   [masked]                       .env.production:4  set
FARE_SIGNING_KEY         server  [masked]                       .env.production:2  set
LEDGER_DATABASE_URL      server  [masked]                       .env.production:3  set

5 of 6 variables have a value; no problems
`);
  });

  test('a public value that may be a secret stays masked until someone accepts it, or asks for it', () => {
    const value = 'made-up-undecided-value-0004';
    const contract = ferryContract.concat('  SHOP_SECRET: { reach: public }\n');
    const project = ferryProject({
      'adder.yaml': contract,
      '.env.development': `SHOP_SECRET=${value}\n`,
      '.env': `TIDE_CHART=true\nSHOP_SECRET=${value}-0005\n`,
    });
    for (const args of [
      ['values', 'production'],
      ['values', '--all'],
      ['values', 'production', '--format', 'json'],
      ['values', '--all', '--format', 'html'],
      ['why', 'SHOP_SECRET'],
      ['compare', 'development', 'production'],
      ['compare', 'development', 'production', '--format', 'json'],
    ])
      project.expectNone([value], project.adder(args));
    expect(project.adder(['values', 'production']).stdout).toMatch(/SHOP_SECRET +public +\[masked\] +\.env:2 +set/);
    expect(project.adder(['values', 'production', '--reveal', 'SHOP_SECRET']).stdout).toContain(value);
    project.write(
      'adder.yaml',
      `${contract}accept:\n  - { finding: contract/risky-public, variable: SHOP_SECRET, because: it is a name of a shop, until: 2099-01-01 }\n`,
    );
    expect(project.adder(['values', 'production']).stdout).toContain(value);
  });

  test('in a terminal that is too narrow nothing is cut', () => {
    const project = ferryProject();
    const inTerminal = (columns: number) =>
      project.adder(['values', 'production', 'FERRY_API_URL'], {}, { columns }).stdout.split('\n\n')[1]?.split('\n');
    expect(inTerminal(50)).toEqual([
      'FERRY_API_URL  public  set',
      '  https://api.saltmarsh.example',
      '  .env.production:1',
    ]);
  });

  test('in a wide terminal only values are cut', () => {
    const project = ferryProject();
    const inTerminal = (columns: number) =>
      project.adder(['values', 'production', 'FERRY_API_URL'], {}, { columns }).stdout.split('\n\n')[1]?.split('\n');
    expect(inTerminal(72)).toEqual([
      'VARIABLE       REACH   VALUE                  FROM               STATE',
      'FERRY_API_URL  public  https://api.saltmars…  .env.production:1  set',
    ]);
  });

  test('JSON has the documented shape', () => {
    const project = ferryProject({ '.env': 'FERRY_API_URL=https://api.test\n' });
    const { code, report } = project.json(['values', 'production'], { TIDE_CHART: 'false' });
    expect(code).toBe(0);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(Object.keys(report)).toEqual([
      ...['report', 'kind', 'command', 'stage', 'layers', 'values', 'findings', 'summary'],
    ]);
    expect(report.values[0]).toEqual({
      name: 'FERRY_API_URL',
      reach: 'public',
      form: 'url',
      state: 'set',
      value: 'https://api.saltmarsh.example',
      from: { layer: '.env.production', path: '.env.production', line: 1, column: 1 },
      overrides: [{ layer: '.env', path: '.env', line: 1, column: 1 }],
      names: { 'ticket-desk': 'VITE_FERRY_API_URL' },
    });
    expect(report.values[1]).toMatchObject({ value: 'false', from: { layer: 'process' } });
    expect(report.values[4]).toEqual({
      name: 'FARE_SIGNING_KEY',
      reach: 'server',
      form: 'text',
      state: 'set',
      from: { layer: '.env.production', path: '.env.production', line: 2, column: 1 },
      overrides: [],
      names: {},
    });
    expect(report.summary).toEqual({ error: 0, warning: 0, note: 0, accepted: 0 });
  });

  test('problems follow with their line, secrets masked', () => {
    const project = ferryProject({
      '.env.production': `FERRY_API_URL=api.example\nFARE_SIGNING_KEY="${secrets.FARE_SIGNING_KEY}" x\nNOTICE_BANNER="Gale" x\n`,
    });
    const ran = project.adder(['values', 'production']);
    expect(ran.code).toBe(1);
    expect(ran.stdout).toContain(
      '           .env.production:2:63\n             2 | FARE_SIGNING_KEY=[masked]\n                                  ^^^^^^^^\n',
    );
    expect(ran.stdout).toContain('             3 | NOTICE_BANNER="Gale" x\n                                      ^\n');
    expect(ran.stdout).toContain('FERRY_API_URL has no scheme (such as https://)');
    expect(ran.stdout).toContain('             1 | FERRY_API_URL=api.example\n                 ^^^^^^^^^^^^^\n');
    expect(ran.stdout.replace(/\s+/g, ' ')).toContain(
      'FARE_SIGNING_KEY has no value in production. The line .env.production:2 cannot be parsed. Set in: staging value/missing',
    );
    project.expectNone(Object.values(secrets), ran);
  });

  test('one variable, a bundle, and one value revealed because it was asked for', () => {
    const project = ferryProject();
    expect(project.json(['values', 'production', 'TIDE_CHART']).report.values).toHaveLength(1);
    expect(project.adder(['values', 'production', '--bundle', 'ticket-desk']).stdout).toContain('VITE_FERRY_API_URL  ');
    const { report } = project.json(['values', 'production', '--reveal', 'FARE_SIGNING_KEY']);
    expect(report.values.map(({ name, value }: { name: string; value?: string }) => [name, value])).toContainEqual([
      'FARE_SIGNING_KEY',
      secrets.FARE_SIGNING_KEY,
    ]);
    expect(JSON.stringify(report)).not.toContain(secrets.LEDGER_DATABASE_URL);
  });

  test('no output of any kind holds a value that it may not', () => {
    const project = ferryProject({ '.env.development': `FARE_SIGNING_KEY="${secrets.FARE_SIGNING_KEY}\nOTHER=$GONE` });
    for (const args of [
      ['values', 'production'],
      ['values', 'development'],
      ['values', 'production', '--format', 'json'],
      ['values', 'staging', '--save', 'reports/r.json'],
    ]) {
      project.expectNone(Object.values(secrets), project.adder(args, secrets), 'reports');
    }
  });

  test('--save keeps the report and prints the summary', () => {
    const project = ferryProject({ '.env.production': '' });
    const saved = project.adder(['values', 'production', '--format', 'json', '--save', 'out/report.json']);
    expect([saved.code, saved.stdout]).toEqual([1, '1 of 6 variables have a value; 2 errors and 1 note\n']);
    expect(JSON.parse(project.read('out/report.json')).summary).toMatchObject({ error: 2, note: 1 });
  });

  test('--fail-on never with --quiet prints the summary alone', () => {
    const project = ferryProject({ '.env.production': '' });
    expect(project.adder(['values', 'production', '--fail-on', 'never', '--quiet'])).toMatchObject({
      code: 0,
      stdout: '1 of 6 variables have a value; 2 errors and 1 note\n',
    });
    expect(
      ferryProject({ '.env.production': 'STRAY=1\n' }).adder(['values', 'staging', '--fail-on', 'warning']).code,
    ).toBe(0);
  });
});

describe('what bad input gets', () => {
  test.each<[args: string[], error: string]>([
    [['values'], 'adder: adder values needs a stage\n  → usage: adder values development|staging|production\n'],
    [['values', 'prod'], 'adder: the contract has no stage "prod"\n  → did you mean production?\n'],
    [
      ['values', 'production', 'FERRY_API_ULR'],
      'adder: the contract has no variable "FERRY_API_ULR"\n  → did you mean FERRY_API_URL?\n',
    ],
    [
      ['values', 'production', '--bundle', 'ticketdesk'],
      'adder: the contract has no bundle "ticketdesk"\n  → did you mean ticket-desk?\n',
    ],
    [
      ['values', 'production', '--formt', 'json'],
      'adder: adder values has no option --formt\n  → did you mean --format?\n',
    ],
    [['values', 'production', '--format', 'jsn'], 'adder: --format cannot be "jsn"\n  → did you mean json?\n'],
    [['values', 'production', '--save'], 'adder: --save needs a value\n  → write --save FILE\n'],
    [
      ['values', 'production', '--', 'x'],
      'adder: adder values takes no command after --\n  → usage: adder values (STAGE [NAME...] | --all)\n',
    ],
    [['value', 'production'], 'adder: unknown command "value"\n  → did you mean values?\n'],
    [['--stage', 'x'], 'adder: no command given\n  → `adder --help` lists the commands\n'],
    [
      ['values', 'production', '--contract', 'no.yaml'],
      /^adder: .*no\.yaml does not exist\n {2}→ / as unknown as string,
    ],
  ])('%j', (args, error) => {
    const { code, stdout, stderr } = ferryProject().adder(args);
    expect({ code, stdout }).toEqual({ code: 2, stdout: '' });
    expect(stderr).toEqual(typeof error === 'string' ? error : expect.stringMatching(error));
  });

  test('no contract: says where it looked and what to do', () => {
    const { code, stderr } = new TestProject().adder(['values', 'production']);
    expect(code).toBe(2);
    expect(stderr).toMatch(/^adder: no adder\.yaml in .* or its parent directories\n {2}→ run `adder draft`/);
  });

  test('a contract with mistakes: all of them, as a report in the format asked for, exit 2', () => {
    const project = new TestProject({
      'adder.yaml': ferryContract.replace('reach: public, form: url', 'reach: pubic, frm: url'),
    });
    const text = project.adder(['values', 'production']);
    expect([text.code, text.stdout.match(/contract\/\S+/g)]).toEqual([
      2,
      ['contract/unreadable', 'contract/unknown-key'],
    ]);
    const { code, report } = project.json(['inspect', '--stage', 'production']);
    expect(code).toBe(2);
    expect(
      report.findings.map(({ code: one, place }: { code: string; place: { line: number } }) => [one, place.line]),
    ).toEqual([
      ['contract/unreadable', 9],
      ['contract/unknown-key', 9],
    ]);
    expect(() => reportSchema.parse(report)).not.toThrow();
  });

  test('a layer that is a directory, or unreadable, is named', () => {
    const folder = ferryProject();
    mkdirSync(folder.path('.env.development'));
    expect(folder.adder(['values', 'development'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining('the layer .env.development is a directory, not a file'),
    });
    const locked = ferryProject();
    chmodSync(locked.path('.env'), 0);
    if (process.getuid?.() !== 0)
      expect(locked.adder(['values', 'staging'])).toMatchObject({
        code: 2,
        stderr: expect.stringContaining('.env may not be read'),
      });
  });

  test('an absent layer is listed', () => {
    expect(ferryProject().adder(['values', 'development']).stdout).toContain('.env, .env.development (absent)');
  });

  test('the contract is found from a directory below', () => {
    const project = ferryProject({ 'src/deep/x': '' });
    expect(project.adder(['values', 'staging'], {}, { cwd: project.path('src/deep') }).code).toBe(0);
  });
});
