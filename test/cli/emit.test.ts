import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { runInNewContext } from 'node:vm';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { parse as parseJsonc } from 'jsonc-parser';
import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { parseSyntax } from '../../src/core/syntax/parse.js';
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

const buildWithDefines = `import { readFileSync } from 'node:fs';
import { build } from 'esbuild';
const define = JSON.parse(readFileSync(process.argv[2], 'utf8'));
await build({ entryPoints: ['src/main.ts'], outfile: 'dist/main.mjs', bundle: true, format: 'esm', define });
`;

/** Builds src/main.ts with the values of defines.json, and runs it after a page's own script. */
function loaded(at: TestProject, page = 'globalThis.adderValues = { LATER: "tide" }') {
  at.write('build.mjs', buildWithDefines);
  spawnSync(process.execPath, ['build.mjs', 'defines.json'], { cwd: at.folder });
  const before = ['--import', `data:text/javascript,${encodeURIComponent(page)}`];
  return spawnSync(process.execPath, [...before, 'dist/main.mjs'], { cwd: at.folder, encoding: 'utf8' });
}

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
  test('a module is typed, replaced by a bundler and checked as it loads', () => {
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
    at.adder(['emit', 'defines', '--stage', 'production', '--save', 'defines.json']);
    expect(JSON.parse(loaded(at).stdout)).toEqual({
      URL: 'https://a.example/"x"',
      CHART: false,
      SEATS: 48,
      SEASON: 'summer',
      PIERS: [80, 81],
      LATER: 'tide',
    });
    expect(loaded(at, '0').stderr).toContain('was not loaded before the app');
    at.write('defines.json', at.read('defines.json').replace('"48"', '""').replace('\\"48\\"', '\\"\\"'));
    expect(loaded(at).stderr).toContain('VITE_SEATS has no value in this build');
  });

  test('constants that the command line puts in: declared, converted, one define each', () => {
    const at = project((text) => text.replace('vite', 'esbuild, reads: [__*__]')).withPackages();
    for (const [kind, file] of [
      ['types', 'env.d.ts'],
      ['module', 'src/values.ts'],
    ])
      at.adder(['emit', kind as string, '--save', file as string]);
    expect(at.read('env.d.ts')).toContain('declare const __SEATS__: string;');
    expect(run(at, 'tsc', '--noEmit', '--strict', '--module', 'esnext', '--types', '', 'src/values.ts').stdout).toBe(
      '',
    );
    const defines = JSON.parse(emitted(['defines', '--stage', 'production'], at));
    expect(defines.__SEATS__).toBe('"48"');
    at.write('src/main.ts', "import { SEATS } from './values.js';\nconsole.log(SEATS + 1);\n");
    at.write('defines.json', JSON.stringify(defines));
    expect(loaded(at).stdout).toBe('49\n');
  });

  test('what no define option replaces', () => {
    const at = project((text) => text.replace('vite', 'sveltekit'));
    expect(at.adder(['emit', 'defines', '--stage', 'production'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining(
        'reads values by imports from $env/static/public, which a define option cannot replace',
      ),
    });
  });

  describe('the server’s module', () => {
    const at = project().withPackages();
    at.write(
      'adder.yaml',
      `${at.read('adder.yaml')}  CODE: { reach: server, min: 4, pattern: '[a-z]+', required: false }\n  SLOTS: { reach: server, form: integer, max: 9 }\n`,
    );
    at.write('src/main.ts', "import { CODE, KEY, SLOTS } from './server.js';\nconsole.log(KEY, CODE, SLOTS + 1);\n");
    at.adder(['emit', 'module', '--side', 'server', '--save', 'src/server.ts']);
    at.write(
      'build.mjs',
      "import { build } from 'esbuild';\nawait build({ entryPoints: ['src/main.ts'], bundle: true, platform: process.argv[2], outfile: 'out/' + process.argv[2] + '.cjs' });",
    );
    for (const platform of ['browser', 'node'])
      spawnSync(process.execPath, ['build.mjs', platform], { cwd: at.folder, encoding: 'utf8' });
    const start = (env: Record<string, string>) => {
      const { stdout, stderr } = spawnSync(process.execPath, ['out/node.cjs'], {
        cwd: at.folder,
        env,
        encoding: 'utf8',
      });
      return stdout + (/Error: (.*)/.exec(stderr)?.[1] ?? '');
    };

    test('has no public variable, and needs no module of Node.js', () => {
      expect(at.read('src/server.ts')).toContain("export const KEY: string = given('KEY', env.KEY);");
      expect(at.read('src/server.ts')).not.toMatch(/URL|node:/);
    });

    test.each<[env: Record<string, string>, said: string]>([
      [{ KEY: 'given', SLOTS: '8' }, 'given undefined 9\n'],
      [{ KEY: 'given', CODE: 'abcd', SLOTS: '9' }, 'given abcd 10\n'],
      [{ SLOTS: '8' }, 'KEY has no value in this build; run "adder values" to see why'],
      [{ KEY: 'a', SLOTS: '10' }, 'SLOTS has a value that the contract does not allow; run "adder values" to see why'],
      [
        { KEY: 'a', SLOTS: 'many' },
        'SLOTS has a value that the contract does not allow; run "adder values" to see why',
      ],
      [
        { KEY: 'a', SLOTS: '1', CODE: 'abc' },
        'CODE has a value that the contract does not allow; run "adder values" to see why',
      ],
      [
        { KEY: 'a', SLOTS: '1', CODE: 'ABCD' },
        'CODE has a value that the contract does not allow; run "adder values" to see why',
      ],
    ])('with %j', (env, said) => expect(start(env)).toBe(said));

    test('does not start in a browser, and lint says why', () => {
      const inBrowser = () => runInNewContext(at.read('out/browser.cjs'), { console });
      expect(inBrowser).toThrow('this module is for servers');
      const { report } = at.json(['lint'], {});
      const said = (report.findings as { code: string; variable?: string }[]).filter(
        ({ code }) => code === 'code/server-read',
      );
      expect(said.map(({ variable }) => variable)).toEqual(expect.arrayContaining(['KEY', 'CODE', 'SLOTS']));
    });
  });

  describe('in JavaScript', () => {
    test('for a file with its ending, which runs as it is', () => {
      const at = project();
      at.adder(['emit', 'module', '--side', 'server', '--save', 'src/server.mjs']);
      at.write('start.mjs', "import { KEY } from './src/server.mjs';\nconsole.log(KEY);\n");
      const { stdout } = spawnSync(process.execPath, ['start.mjs'], {
        cwd: at.folder,
        env: { KEY: 'given' },
        encoding: 'utf8',
      });
      expect(stdout).toBe('given\n');
      at.adder(['emit', 'module', '--save', 'src/values.js']);
      expect(parseSyntax(at.read('src/values.js'), 'js').problem).toBeUndefined();
      expect(at.read('src/values.js')).toContain('@type {readonly (number)[]}');
    });

    test('for a package without TypeScript, and not for CommonJS', () => {
      const at = project();
      at.write('src/main.js', '');
      expect(parseSyntax(emitted(['module'], at), 'js').problem).toBeUndefined();
      expect(at.adder(['emit', 'module', '--save', 'src/values.cjs']).stderr).toContain('save it as .js, .mjs or .ts');
      at.write('src/other.ts', '');
      expect(emitted(['module'], at)).toContain(': string');
    });
  });
});

test('module --with-values: the same exports and types as the module of reads, with the public values of a stage', () => {
  const at = project().withPackages();
  at.adder(['emit', 'module', '--save', 'src/values.ts']);
  const text = emitted(['module', '--with-values', '--stage', 'production'], at);
  expect(text).toContain('It contains the public values of production.');
  expect(text).toContain('export const URL: string = "https://a.example/\\"x\\"";\n');
  expect(text).toContain('export const NOTICE: string | undefined = undefined;\n');
  const exportsOf = (source: string) => source.match(/^export const \w+: [^=]+/gm);
  expect(exportsOf(text)).toEqual(exportsOf(at.read('src/values.ts')));
  at.write('src/values.production.ts', text);
  at.write(
    'same.ts',
    "import * as a from './src/values.production.js';\nimport type * as b from './src/values.js';\nexport const one: typeof b = a;\n",
  );
  at.adder(['emit', 'types', '--save', 'env.d.ts']);
  expect(
    run(at, 'tsc', '--noEmit', '--strict', '--module', 'esnext', '--types', '', 'env.d.ts', 'same.ts').stdout,
  ).toBe('');
  at.write('.env.production', 'URL=a\n');
  expect(at.adder(['emit', 'module', '--with-values', '--stage', 'production'])).toMatchObject({
    code: 2,
    stdout: '',
    stderr: expect.stringContaining('URL is malformed in production; no module is written'),
  });
});

describe('launch', () => {
  const dart = (text: string) =>
    text.replace(
      'toolchain: vite, code: [src], output: [dist]',
      'runs: mobile, toolchain: dart, code: [app/lib], build: flutter build apk',
    );
  const wanted = {
    name: 'desk (production)',
    type: 'dart',
    request: 'launch',
    cwd: '${workspaceFolder}/app',
    preLaunchTask: 'adder: values of desk (production)',
    toolArgs: ['--dart-define-from-file=${workspaceFolder}/.adder/defines/desk.production.json'],
  };

  test('merges a configuration for each bundle and stage, and keeps everything else', () => {
    const at = project(dart);
    at.write('app/pubspec.yaml', 'name: desk\n');
    const own =
      '{\n  // ours\n  "version": "0.2.0",\n  "configurations": [\n    { "name": "mine", "type": "dart", },\n    { "name": "desk (production)", "type": "old" },\n  ],\n}\n';
    at.write('.vscode/launch.json', own);
    expect(at.adder(['emit', 'launch', '--into', '.vscode', '--check'])).toMatchObject({ code: 1 });
    expect(at.read('.vscode/launch.json')).toBe(own);
    expect(at.adder(['emit', 'launch', '--into', '.vscode'])).toEqual({
      code: 0,
      stdout: '',
      stderr: 'adder: the run configurations in .vscode were written\n',
    });
    const text = at.read('.vscode/launch.json');
    expect(text).toContain('  // ours\n');
    expect(parseJsonc(text).configurations).toEqual([{ name: 'mine', type: 'dart' }, wanted]);
    const [first, second] = parseJsonc(at.read('.vscode/tasks.json')).tasks;
    expect(first.label).toBe(wanted.preLaunchTask);
    // The task makes the very file that the configuration names.
    expect([first.command, at.adder(first.args).code]).toEqual(['adder', 0]);
    expect(JSON.parse(at.read('.adder/defines/desk.production.json')).URL).toBe('https://a.example/"x"');
    expect([second.label, second.args]).toEqual([
      'adder: build desk (production)',
      ['with', 'production', '--bundle', 'desk'],
    ]);
    expect(at.adder(['emit', 'launch', '--into', '.vscode', '--check'])).toMatchObject({ code: 0 });
    expect(at.read('.vscode/launch.json')).toBe(text);
  });

  test('for a web bundle, the dev server of its package', () => {
    const at = project();
    at.write('package.json', '{ "scripts": { "dev": "vite" } }');
    at.adder(['emit', 'launch', '--into', '.vscode']);
    expect(JSON.parse(at.read('.vscode/launch.json')).configurations).toEqual([
      {
        ...{ name: 'desk (production)', type: 'node-terminal', request: 'launch', cwd: '${workspaceFolder}' },
        command: 'adder with production --bundle desk -- npm run dev',
      },
    ]);
    // Elsewhere npx would fetch another package of the name.
    at.write('node_modules/adder/package.json', '{}');
    at.adder(['emit', 'launch', '--into', '.vscode']);
    expect(at.read('.vscode/launch.json')).toContain('"npx adder with production');
    expect(emitted(['launch'], at)).toContain('"launch.json"');
  });

  test('a directory of run configurations gets a file for each, and others stay', () => {
    const at = project();
    at.write('package.json', '{ "scripts": { "dev": "vite" } }');
    at.write('.run/mine.run.xml', '<component/>');
    expect(at.adder(['emit', 'launch', '--into', '.run']).code).toBe(0);
    const text = at.read('.run/desk_production.run.xml');
    expect(text).toContain('<option name="SCRIPT_TEXT" value="adder with production --bundle desk -- npm run dev" />');
    expect(text).toContain('name="desk (production)" type="ShConfigurationType"');
    expect(at.read('.run/mine.run.xml')).toBe('<component/>');
    expect(at.adder(['emit', 'launch', '--into', '.run', '--check']).code).toBe(0);
  });

  test('a file that is not valid JSON is named with its line, and nothing is written', () => {
    const at = project(dart);
    at.write('.vscode/tasks.json', '{\n  "tasks": [\n');
    const { code, stderr } = at.adder(['emit', 'launch', '--into', '.vscode']);
    expect([code, stderr]).toEqual([2, expect.stringContaining('tasks.json:3:1 is not valid JSON with comments')]);
    expect(existsSync(at.path('.vscode/launch.json'))).toBe(false);
  });
});

test('{defines} in a command of with is a file with the public values of the bundle', () => {
  const at = project((text) => text.replace('toolchain: vite', 'runs: mobile, toolchain: dart'));
  const command = ['node', '-e', "console.log(require('node:fs').readFileSync(process.argv[1].split('=')[1], 'utf8'))"];
  const ran = at.adder(['with', 'production', '--', ...command, 'file={defines}']);
  expect(JSON.parse(ran.stdout)).toEqual({
    URL: 'https://a.example/"x"',
    CHART: 'false',
    SEATS: '48',
    SEASON: 'summer',
    PIERS: '80,81',
  });
  expect(at.read('.adder/.gitignore')).toContain('*');
  at.expectNone(Object.values(secrets), ran);
});

describe('defines', () => {
  test('has the names that the code reads, quoted as source text', () => {
    const defines = JSON.parse(emitted(['defines', '--stage', 'production']));
    expect(defines).toEqual({
      'import.meta.env.VITE_URL': '"https://a.example/\\"x\\""',
      'import.meta.env.VITE_CHART': '"false"',
      'import.meta.env.VITE_SEATS': '"48"',
      'import.meta.env.VITE_SEASON': '"summer"',
      'import.meta.env.VITE_PIERS': '"80,81"',
      'import.meta.env.VITE_NOTICE': 'undefined',
    });
  });

  test('has build values if they are asked for, and server values never', () => {
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

  test('refused if a value is wrong', () => {
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
  expect(text).toContain('# the API */ of\n# the desk\n# public, url, required\nURL=https://api.saltmarsh.example\n');
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
    'production: the host provides to the server\n  KEY     server, text, required, signs fares\n',
  );
  expect(emitted(['needs', '--stage', 'production', '--as', 'env'], at)).toContain(
    '# for the host, text, required, signs fares\nKEY=\n',
  );
});

test('needs and with agree in a clone: what one lists, the other refuses to build without', () => {
  const at = new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env, .env.local, process] }, staging: { layers: [.env, .env.local] } }
bundles: { desk: { toolchain: vite } }
passes: [GITHUB_SHA]
variables:
  API_URL: { reach: public, form: url, aka: [OLD_URL] }
  MAP_KEY: public
  TIDES: { reach: public, required: false }
  TOKEN: build
`,
    '.env': 'OLD_URL=https://api.saltmarsh.example\n',
    '.env.local': 'MAP_KEY=made-up-tiles-key\nTOKEN=made-up-token-0123456789\n',
    '.gitignore': '.env.local\n',
  });
  spawnSync('git', ['init', '-q'], { cwd: at.folder });
  const listed = JSON.parse(emitted(['needs', '--stage', 'production', '--as', 'json'], at));
  const required = listed.needs.flatMap(({ name, required }: { name: string; required: boolean }) =>
    required ? [name] : [],
  );
  expect([required, listed.passes, listed.readsEnvironment]).toEqual([['MAP_KEY', 'TOKEN'], ['GITHUB_SHA'], true]);
  const clone = new TestProject({ 'adder.yaml': at.read('adder.yaml'), '.env': at.read('.env') });
  const refused = JSON.parse(clone.adder(['with', 'production', '--format', 'json', '--', 'true']).stdout).findings;
  expect(refused.map(({ variable }: { variable: string }) => variable)).toEqual(required);
  const given = Object.fromEntries(required.map((name: string) => [name, 'made-up-by-the-pipeline']));
  expect(clone.adder(['with', 'production', '--', 'true'], given).code).toBe(0);
  expect(emitted(['needs', '--stage', 'staging'], at)).toContain(
    'Builds of staging ignore the environment: add `process` to its layers in the contract.',
  );
});

test('needs: a server’s values under the names that its code reads as it runs', () => {
  const at = project((text) =>
    text
      .replace('bundles:\n', 'bundles:\n  booth: { runs: server, toolchain: nuxt }\n')
      .replace('delivery: runtime, required: false', 'delivery: runtime')
      .replace('KEY: { reach: server,', 'KEY: { reach: server, names: { booth: NUXT_KEY },'),
  );
  at.write('.env.production', `${env}LATER=tide\n`);
  expect(emitted(['needs', '--stage', 'production'], at)).toContain(
    'production: the host provides to the server\n  NUXT_PUBLIC_LATER  LATER in the contract, public, text, required\n  NUXT_KEY           KEY in the contract, server, text, required, signs fares\n',
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
    expect(check()).toMatchObject({ code: 1, stderr: expect.stringContaining('env.d.ts is out of date') });
    at.adder(['emit', 'types', '--save', 'env.d.ts']);
    expect(check()).toMatchObject({ code: 0, stderr: 'adder: env.d.ts is up to date\n' });
    at.write('adder.yaml', contract.replace('SEATS', 'PLACES'));
    expect(check().code).toBe(1);
    expect(at.read('env.d.ts')).toContain('SEATS');
  });

  test.each([
    [['emit'], 'adder emit needs a kind'],
    [['emit', 'type'], 'did you mean types?'],
    [['emit', 'types', '--check'], '--check needs a file'],
    [['emit', 'defines'], 'add --stage production'],
    [['emit', 'types', '--bundle', 'dsek'], 'did you mean desk?'],
    [['emit', 'types', '--into', 'x'], '--into does not apply to adder emit types'],
    [['emit', 'module', '--with-values'], 'add --stage production'],
    [['emit', 'types', '--with-values'], '--with-values does not apply to adder emit types'],
  ])('%j', (args, said) =>
    expect(project().adder(args)).toMatchObject({ code: 2, stdout: '', stderr: expect.stringContaining(said) }),
  );
});
