import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Ajv2020 as Ajv } from 'ajv/dist/2020.js';
import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';

const contract = `adder: 1
stages:
  staging: { layers: [.env, .env.staging] }
  production: { layers: [.env, .env.production] }
bundles:
  ticket-desk: { toolchain: vite, code: src, output: dist, build: node build.mjs }
  quay: { runs: server, code: server, output: server-dist, build: node build-server.mjs }
variables:
  FERRY_API_URL: { reach: public, bundles: [ticket-desk] }
  TIDE_CHART: { reach: public, form: flag, bundles: [ticket-desk] }
  UNREAD: { reach: public, bundles: [ticket-desk] }
  NOTICE_BANNER: { reach: public, delivery: runtime, bundles: [ticket-desk] }
  SOURCE_MAP_UPLOAD_TOKEN: { reach: build, bundles: [ticket-desk] }
  FARE_SIGNING_KEY: { reach: server }
`;

const values = {
  FERRY_API_URL: 'https://api.saltmarsh.example',
  TIDE_CHART: 'true',
  UNREAD: 'a-value-that-no-code-reads',
  NOTICE_BANNER: 'The ferry is late',
  SOURCE_MAP_UPLOAD_TOKEN: 'made-up-upload-token-0001',
  FARE_SIGNING_KEY: 'made-up-signing-key-for-fares-0001',
};

const envFile = (changes: Partial<typeof values>) =>
  Object.entries({ ...values, ...changes })
    .map(([name, value]) => `${name}='${value}'\n`)
    .join('');

/** A project after a build of both bundles. */
function built(): TestProject {
  const project = new TestProject({
    'adder.yaml': contract,
    '.env.production': envFile({}),
    '.env.staging': envFile({ FERRY_API_URL: 'https://api.staging.saltmarsh.test' }),
    'src/main.ts': 'fetch(import.meta.env.VITE_FERRY_API_URL); if (import.meta.env.VITE_TIDE_CHART) show();',
    'server/main.js': 'process.env.FARE_SIGNING_KEY',
    'build.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('dist/app.js', 'fetch("' + process.env.VITE_FERRY_API_URL + '")');`,
    'build-server.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('server-dist', { recursive: true });
writeFileSync('server-dist/main.js', 'process.env.FARE_SIGNING_KEY');`,
  });
  for (const bundle of ['ticket-desk', 'quay']) build(project, 'production', bundle);
  return project;
}

function build(project: TestProject, stage: string, bundle: string): void {
  const { code, stderr } = project.adder(['with', stage, '--bundle', bundle]);
  expect(code, stderr).toBe(0);
}

function receipt(project: TestProject, bundle: string) {
  const folder = project.path('.adder/receipts', bundle);
  const [name = ''] = readdirSync(folder).sort().slice(-1);
  return JSON.parse(readFileSync(join(folder, name), 'utf8'));
}

const everythingElse = envFile({
  FERRY_API_URL: 'https://booking.saltmarsh.example',
  TIDE_CHART: 'false',
  UNREAD: 'another-value-that-no-code-reads',
  NOTICE_BANNER: 'The ferry is on time',
  SOURCE_MAP_UPLOAD_TOKEN: 'made-up-upload-token-0002',
  FARE_SIGNING_KEY: 'made-up-signing-key-for-fares-0002',
});

const expected = [
  ['ticket-desk', 'FERRY_API_URL', 'rebuild'],
  ['ticket-desk', 'TIDE_CHART', 'rebuild'],
  ['ticket-desk', 'UNREAD', 'nothing'],
  ['ticket-desk', 'NOTICE_BANNER', 'reload'],
  ['ticket-desk', 'SOURCE_MAP_UPLOAD_TOKEN', 'nothing'],
  ['quay', 'FARE_SIGNING_KEY', 'restart'],
].sort();

type Row = { variable: string; bundle?: string; action: string };
const rowsOf = (changes: Row[]) => changes.map(({ bundle, variable, action }) => [bundle, variable, action]).sort();

describe('what to do after a change', () => {
  test('values and inspect use the same words', () => {
    const project = built();
    expect(project.json(['values', 'production']).report.since).toBeUndefined();
    project.write('.env.production', everythingElse);
    for (const command of [
      ['values', 'production'],
      ['inspect', '--stage', 'production'],
      ['gate', 'production'],
    ]) {
      const { report } = project.json(command);
      const changes = report.since.flatMap((one: { changes: Row[] }) => one.changes);
      expect(rowsOf(changes), command[0]).toEqual(expected);
    }
    const { stdout } = project.adder(['values', 'production']);
    expect(stdout).toContain('→ rebuild: adder with production --bundle ticket-desk\n');
    expect(stdout).toMatch(/adder emit runtime --stage production --bundle\s+ticket-desk --into dist\n/);
    expect(stdout).toMatch(/restart {3}FARE_SIGNING_KEY: read by quay at the start/);
    project.expectNone(
      [values.FARE_SIGNING_KEY, values.SOURCE_MAP_UPLOAD_TOKEN, 'made-up-signing-key-for-fares-0002'],
      project.adder(['compare', 'newest', 'production', '--bundle', 'quay', '--format', 'json']),
    );
  });

  test('the remedy of a rebuild works: afterwards only what it does not cover is left', () => {
    const project = built();
    project.write('.env.production', everythingElse);
    build(project, 'production', 'ticket-desk');
    const { report } = project.json(['values', 'production']);
    expect(rowsOf(report.since.flatMap((one: { changes: Row[] }) => one.changes))).toEqual([
      ['quay', 'FARE_SIGNING_KEY', 'restart'],
    ]);
  });

  test('a server value that this machine lacks is not a removed one', () => {
    const project = built();
    project.write('.env.production', envFile({}).replace(/FARE_SIGNING_KEY.*\n/, ''));
    expect(project.json(['values', 'production']).report.since).toBeUndefined();
  });
});

describe('compare with receipts', () => {
  test('a build with its stage as it is now, and with another stage', () => {
    const project = built();
    const same = project.json(['compare', 'newest', 'production', '--bundle', 'ticket-desk']).report;
    expect(same.changes).toEqual([]);
    expect(same.same).toBe(6);
    const { report } = project.json(['compare', 'newest', 'staging', '--bundle', 'ticket-desk']);
    expect(rowsOf(report.changes)).toEqual([['ticket-desk', 'FERRY_API_URL', 'rebuild']]);
    expect(report.changes[0].files).toEqual(['dist/app.js']);
  });

  test('two builds: what changed needs to be deployed', () => {
    const project = built();
    project.write('.env.production', everythingElse);
    build(project, 'production', 'ticket-desk');
    const { report } = project.json(['compare', 'previous', 'newest', '--bundle', 'ticket-desk']);
    const actions = Object.fromEntries(report.changes.map(({ variable, action }: Row) => [variable, action]));
    expect(actions).toMatchObject({ FERRY_API_URL: 'redeploy', NOTICE_BANNER: 'reload', UNREAD: 'nothing' });
    const { stdout } = project.adder(['compare', 'previous', 'newest', '--bundle', 'ticket-desk']);
    expect(stdout).toContain('deploy the current build of ticket-desk');
    expect(stdout).toContain('FERRY_API_URL was in dist/app.js');
  });

  test('what cannot be compared is refused with a remedy', () => {
    const project = built();
    const path = `.adder/receipts/quay/${readdirSync(project.path('.adder/receipts/quay'))[0]}`;
    const refused: [string[], RegExp][] = [
      [['newest', 'production'], /the contract has 2 bundles|newest/],
      [['previous', 'newest', '--bundle', 'quay'], /quay has only one receipt/],
      [['newest', path, '--bundle', 'ticket-desk'], /the receipts are of different bundles, ticket-desk and quay/],
      [['production', path], new RegExp(`name the receipt first: adder compare ${path} production`)],
      [['adder.yaml', 'production'], /has no stage adder\.yaml|no stage/],
      [['nowhere.json', 'production'], /nowhere\.json (was not found|does not exist)/],
    ];
    for (const [words, message] of refused.slice(1)) {
      const { code, stderr } = project.adder(['compare', ...words]);
      expect([words, code]).toEqual([words, 2]);
      expect(stderr).toMatch(message);
    }
    const foreign = receipt(project, 'quay');
    foreign.predicate.key = '0123456789abcdef';
    project.write('elsewhere.json', JSON.stringify(foreign));
    const { code, stderr } = project.adder(['compare', './elsewhere.json', 'production']);
    expect(code).toBe(3);
    expect(stderr).toContain('was written with another key');
  });
});

describe('receipts', () => {
  test('record contract, tools, modules, delivery and the other values', () => {
    const project = built();
    const { predicate } = receipt(project, 'ticket-desk');
    expect(predicate.contract).toMatch(/^[0-9a-f]{64}$/);
    expect(predicate.tools.node).toBe(process.versions.node);
    expect(
      predicate.values.map(({ name, delivery, modules }: Record<string, unknown>) => [name, delivery, modules]),
    ).toEqual([
      ['FERRY_API_URL', 'inline', ['src/main.ts']],
      ['TIDE_CHART', 'inline', ['src/main.ts']],
      ['UNREAD', 'inline', []],
      ['SOURCE_MAP_UPLOAD_TOKEN', 'inline', undefined],
    ]);
    expect(predicate.others.map(({ name, delivery }: Record<string, unknown>) => [name, delivery])).toEqual([
      ['NOTICE_BANNER', 'runtime'],
      ['FARE_SIGNING_KEY', 'inline'],
    ]);
  });

  test('match their schema', () => {
    const project = built();
    const schema = JSON.parse(readFileSync(join(import.meta.dirname, '../../dist/schema/receipt.json'), 'utf8'));
    const validate = new Ajv({ strict: false, validateFormats: false }).compile(schema);
    for (const bundle of ['ticket-desk', 'quay'])
      expect(validate(receipt(project, bundle)), JSON.stringify(validate.errors)).toBe(true);
    expect(validate({ ...receipt(project, 'quay'), predicate: {} })).toBe(false);
  });

  test('code that reads by a computed name leaves open which values it uses', () => {
    const project = built();
    project.write('src/main.ts', 'const name = "VITE_" + key; fetch(import.meta.env[name]);');
    build(project, 'production', 'ticket-desk');
    const modules = receipt(project, 'ticket-desk').predicate.values.map((one: { modules?: string[] }) => one.modules);
    expect(modules).toEqual([undefined, undefined, undefined, undefined]);
    project.write('.env.production', envFile({ UNREAD: 'another-value-that-no-code-reads' }));
    const { report } = project.json(['values', 'production']);
    expect(rowsOf(report.since[0].changes)).toEqual([['ticket-desk', 'UNREAD', 'rebuild']]);
  });

  test('a constant of a define option, and a name in a component, are reads', () => {
    const project = built();
    project.write(
      'adder.yaml',
      contract.replace(
        'toolchain: vite, code: src,',
        'toolchain: vite, code: src, prefix: "", reads: [__*__, import.meta.env],',
      ),
    );
    project.write('src/main.ts', 'fetch(__FERRY_API_URL__);');
    project.write(
      'src/Desk.vue',
      '<script setup>const shown = import.meta.env.TIDE_CHART</script><template>{{ shown }}</template>',
    );
    build(project, 'production', 'ticket-desk');
    const { values } = receipt(project, 'ticket-desk').predicate;
    expect(values.map(({ name, modules }: { name: string; modules?: string[] }) => [name, modules])).toEqual([
      ['FERRY_API_URL', ['src/main.ts']],
      ['TIDE_CHART', ['src/Desk.vue']],
      ['UNREAD', []],
      ['SOURCE_MAP_UPLOAD_TOKEN', undefined],
    ]);
  });

  test('record the commit, and whether the tree was dirty before the build', () => {
    const project = built();
    const git = (...args: string[]) =>
      execFileSync('git', ['-c', 'user.name=Quay', '-c', 'user.email=quay@saltmarsh.test', ...args], {
        cwd: project.folder,
        encoding: 'utf8',
      }).trim();
    git('init', '--quiet');
    project.write('.gitignore', '.env*\nenvironment.json\n');
    git('add', '.');
    git('commit', '--quiet', '-m', 'First');
    project.write('build.mjs', `${project.read('build.mjs')}\nwriteFileSync('dist/more.js', String(Math.random()));`);
    git('commit', '--quiet', '-am', 'Second');
    build(project, 'production', 'ticket-desk');
    expect(receipt(project, 'ticket-desk').predicate.revision).toEqual({ id: git('rev-parse', 'HEAD'), dirty: false });
    build(project, 'production', 'ticket-desk');
    expect(receipt(project, 'ticket-desk').predicate.revision.dirty).toBe(true);
  });
});
