import { spawnSync } from 'node:child_process';
import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { secrets, TestProject } from '../support/adder.js';

const contract = `adder: 1
stages:
  production: { layers: [.env.production, process] }
bundles:
  desk: { toolchain: vite, code: [src], output: [dist] }
variables:
  URL: { reach: public, form: url, about: "the API */ of\\n the desk", example: https://api.saltmarsh.example }
  CHART: { reach: public, form: flag, default: false }
  SEATS: { reach: public, form: integer }
  SEASON: { reach: public, form: { choice: [summer, winter] } }
  PIERS: { reach: public, form: { list: port } }
  NOTICE: { reach: public, required: false }
  LATER: { reach: public, delivery: runtime, required: false }
  TOKEN: { reach: build, example: not-shown }
  KEY: { reach: server, about: signs fares }
`;

const env = `URL=https://a.example/"x"\nSEATS=48\nSEASON=summer\nPIERS=80,81\nTOKEN='${secrets.SOURCE_MAP_UPLOAD_TOKEN}'\nKEY=${secrets.FARE_SIGNING_KEY}\n`;

const project = (change = (text: string) => text) =>
  new TestProject({ 'adder.yaml': change(contract), '.env.production': env, 'package.json': '{"type":"module"}' });

const emitted = (args: string[], from = project()) => {
  const ran = from.adder(['emit', ...args]);
  expect(ran.stderr).toBe('');
  from.expectNone(Object.values(secrets), ran);
  return ran.stdout;
};

const run = (at: TestProject, tool: string, ...args: string[]) =>
  spawnSync(process.execPath, [join(import.meta.dirname, '../../node_modules/.bin', tool), ...args], {
    cwd: at.folder,
    encoding: 'utf8',
    env: { ...process.env, NODE_ENV: '' },
  });

describe('types', () => {
  test('complete exactly the public names, and flag others', () => {
    const at = project().withPackages();
    at.adder(['emit', 'types', '--save', 'env.d.ts']);
    expect(at.read('env.d.ts')).toContain('  /** the API * / of the desk (url) */\n  readonly VITE_URL: string;\n');
    at.write(
      'good.ts',
      "const season: 'summer' | 'winter' = import.meta.env.VITE_SEASON;\nconst notice: string | undefined = import.meta.env.VITE_NOTICE;\nexport { season, notice };\n",
    );
    at.write(
      'bad.ts',
      'export const a = import.meta.env.VITE_URI;\nexport const b = import.meta.env.KEY;\nexport const c = import.meta.env.VITE_LATER;\n',
    );
    const check = (file: string) =>
      run(at, 'tsc', '--noEmit', '--strict', '--module', 'esnext', '--types', '', 'env.d.ts', file).stdout;
    expect(check('good.ts')).toBe('');
    expect(check('bad.ts').match(/bad\.ts\(\d/g)).toEqual(['bad.ts(1', 'bad.ts(2', 'bad.ts(3']);
  });

  test('for code that reads process.env', () => {
    expect(
      emitted(
        ['types'],
        project((text) => text.replace('vite', 'webpack')),
      ),
    ).toContain('  interface ProcessEnv {\n    /** the API * / of the desk (url) */\n    readonly URL: string;');
  });
});

describe('module', () => {
  test('typed, replaced by a bundler, converted; a missing value is an error at load', () => {
    const at = project().withPackages();
    at.adder(['emit', 'module', '--save', 'src/values.ts']);
    at.adder(['emit', 'types', '--save', 'env.d.ts']);
    expect(
      run(at, 'tsc', '--noEmit', '--strict', '--module', 'esnext', '--types', '', 'env.d.ts', 'src/values.ts').stdout,
    ).toBe('');
    const text = at.read('src/values.ts');
    for (const name of ['URL', 'CHART', 'SEATS', 'SEASON', 'PIERS', 'NOTICE'])
      expect(text.split(`import.meta.env.VITE_${name}`)).toHaveLength(2);
    at.write('src/main.ts', "import * as values from './values.js';\nconsole.log(JSON.stringify(values));\n");
    at.write(
      'build.mjs',
      "import { readFileSync } from 'node:fs';\nimport { build } from 'esbuild';\nawait build({ entryPoints: ['src/main.ts'], outfile: 'dist/main.mjs', bundle: true, format: 'esm', define: JSON.parse(readFileSync(process.argv[2], 'utf8')) });",
    );
    at.adder(['emit', 'defines', '--stage', 'production', '--save', 'defines.json']);
    const load = (page = 'globalThis.adderValues = { LATER: "tide" }') => {
      spawnSync(process.execPath, ['build.mjs', 'defines.json'], { cwd: at.folder });
      const before = ['--import', `data:text/javascript,${encodeURIComponent(page)}`];
      return spawnSync(process.execPath, [...before, 'dist/main.mjs'], { cwd: at.folder, encoding: 'utf8' });
    };
    expect(JSON.parse(load().stdout)).toEqual({
      URL: 'https://a.example/"x"',
      CHART: false,
      SEATS: 48,
      SEASON: 'summer',
      PIERS: [80, 81],
      LATER: 'tide',
    });
    expect(load('0').stderr).toContain('was not loaded before the app');
    at.write('defines.json', at.read('defines.json').replace('"48"', '""').replace('\\"48\\"', '\\"\\"'));
    expect(load().stderr).toContain('VITE_SEATS was not given to this build');
  });

  test('the server’s module reads at run time, and a browser build has no such module', () => {
    const at = project().withPackages();
    at.adder(['emit', 'module', '--side', 'server', '--save', 'src/server.ts']);
    expect(at.read('src/server.ts')).toContain("export const KEY: string = given('KEY', env.KEY);");
    expect(at.read('src/server.ts')).not.toContain('URL');
    at.write('src/main.ts', "import { KEY } from './server.js';\nconsole.log(KEY);\n");
    at.write(
      'build.mjs',
      "import { build } from 'esbuild';\nawait build({ entryPoints: ['src/main.ts'], bundle: true, platform: process.argv[2], outfile: 'out/main.cjs' });",
    );
    const buildFor = (platform: string) =>
      spawnSync(process.execPath, ['build.mjs', platform], { cwd: at.folder, encoding: 'utf8' });
    const inBrowser = buildFor('browser');
    expect([inBrowser.status, inBrowser.stderr.includes('node:process')]).toEqual([1, true]);
    expect(buildFor('node').status).toBe(0);
    const onServer = spawnSync(process.execPath, ['out/main.cjs'], {
      cwd: at.folder,
      env: { KEY: 'given' },
      encoding: 'utf8',
    });
    expect(onServer.stdout).toBe('given\n');
  });
});

describe('defines', () => {
  test('quoted as source text, for the names that the code reads; no build value unless it is asked for, no server value ever', () => {
    const defines = JSON.parse(emitted(['defines', '--stage', 'production']));
    expect(defines).toEqual({
      'import.meta.env.VITE_URL': '"https://a.example/\\"x\\""',
      'import.meta.env.VITE_CHART': '"false"',
      'import.meta.env.VITE_SEATS': '"48"',
      'import.meta.env.VITE_SEASON': '"summer"',
      'import.meta.env.VITE_PIERS': '"80,81"',
      'import.meta.env.VITE_NOTICE': 'undefined',
    });
    const at = project();
    at.adder(['emit', 'defines', '--stage', 'production', '--with-build', '--save', 'd.json']);
    expect(JSON.parse(at.read('d.json'))['import.meta.env.TOKEN']).toBe(
      JSON.stringify(secrets.SOURCE_MAP_UPLOAD_TOKEN),
    );
    expect(at.read('d.json')).not.toContain(secrets.FARE_SIGNING_KEY);
    expect(statSync(at.path('d.json')).mode & 0o777).toBe(0o600);
  });

  test('flat for a mobile toolchain, whose flags are words', () => {
    const at = project((text) =>
      text.replace('toolchain: vite', 'runs: mobile, toolchain: dart').replace('default: false', 'default: 1'),
    );
    expect(JSON.parse(emitted(['defines', '--stage', 'production'], at))).toMatchObject({
      URL: 'https://a.example/"x"',
      CHART: 'true',
      SEATS: '48',
    });
  });

  test('refused when a value is not in order', () => {
    const at = project();
    at.write('.env.production', 'URL=a');
    expect(at.adder(['emit', 'defines', '--stage', 'production'])).toMatchObject({
      code: 2,
      stdout: '',
      stderr: expect.stringContaining('URL is malformed in production'),
    });
  });
});

test('dart: typed accessors over compile-time constants', () => {
  const at = project((text) => text.replace('toolchain: vite', 'runs: mobile, toolchain: dart'));
  expect(emitted(['dart'], at)).toContain(`abstract final class DeskValues {
  /// the API * / of the desk (url)
  static const String url = String.fromEnvironment('URL');

  /// flag
  static const bool chart = bool.fromEnvironment('CHART', defaultValue: false);

  /// integer
  static const int seats = int.fromEnvironment('SEATS');
`);
});

test('example: names and comments, and no value but a public example', () => {
  const text = emitted(['example']);
  expect(text).toContain('# the API */ of\n#  the desk\n# public, url, required\nURL=https://api.saltmarsh.example\n');
  expect(text).toContain('# signs fares\n# server, text, required\nKEY=\n');
  expect(text).toContain('TOKEN=\n');
});

test('needs: what no file gives, for pipeline and host', () => {
  const at = project();
  at.write('.env.production', 'URL=https://a.example\n');
  const needs = JSON.parse(emitted(['needs', '--stage', 'production', '--as', 'json'], at));
  expect(
    needs.needs.map(
      ({ name, by, required }: { name: string; by: string; required: boolean }) => `${by} ${name} ${required}`,
    ),
  ).toEqual([
    'pipeline SEATS true',
    'pipeline SEASON true',
    'pipeline PIERS true',
    'pipeline NOTICE false',
    'pipeline LATER false',
    'pipeline TOKEN true',
    'host KEY true',
  ]);
  expect(emitted(['needs', '--stage', 'production'], at)).toContain(
    'production: the host gives to the server\n  KEY     server, text, required, signs fares\n',
  );
  expect(emitted(['needs', '--stage', 'production', '--as', 'env'], at)).toContain(
    '# for the host, text, required, signs fares\nKEY=\n',
  );
});

test('schema: a general validator takes the demo’s contract by it, and refuses a wrong one', () => {
  const validate = new Ajv2020({ strict: false, logger: false }).compile(JSON.parse(emitted(['schema'])));
  const demo = parse(readFileSync(join(import.meta.dirname, '../../src/demo/ferries/adder.yaml'), 'utf8'));
  expect(validate(demo), JSON.stringify(validate.errors)).toBe(true);
  expect(validate({ ...demo, variables: { A: { reach: 'pubic' } } })).toBe(false);
  expect(validate({ ...demo, varables: {} })).toBe(false);
});

describe('--check and mistakes', () => {
  test('says whether a file is up to date, and writes nothing', () => {
    const at = project();
    const check = () => at.adder(['emit', 'types', '--save', 'env.d.ts', '--check']);
    expect(check()).toMatchObject({ code: 1, stderr: expect.stringContaining('env.d.ts is not up to date') });
    at.adder(['emit', 'types', '--save', 'env.d.ts']);
    expect(check()).toMatchObject({ code: 0, stderr: 'adder: env.d.ts is up to date\n' });
    at.write('adder.yaml', contract.replace('SEATS', 'PLACES'));
    expect(check().code).toBe(1);
    expect(at.read('env.d.ts')).toContain('SEATS');
  });

  test.each([
    [['emit'], 'no kind was named'],
    [['emit', 'type'], 'did you mean types?'],
    [['emit', 'types', '--check'], '--check needs to know the file'],
    [['emit', 'defines'], 'add --stage production'],
    [['emit', 'types', '--bundle', 'dsek'], 'did you mean desk?'],
  ])('%j', (args, said) =>
    expect(project().adder(args)).toMatchObject({ code: 2, stdout: '', stderr: expect.stringContaining(said) }),
  );
});
