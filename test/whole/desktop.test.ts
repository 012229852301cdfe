import { spawnSync } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';
import { packAsar } from '../support/unpack.js';

const key = secrets.FARE_SIGNING_KEY;
const address = 'https://api.saltmarsh.example';
const build = ['with', 'production', '--', 'node', 'build.js'];
const inspect = ['inspect', '--stage', 'production'];

const desktop = (output: string) =>
  ferryContract
    .replace('runs: browser, toolchain: vite', 'runs: desktop, toolchain: esbuild')
    .replace('[dist], prefix: VITE_', `[${output}]`);

interface Said {
  code: string;
  place: { path: string };
  variable: string;
}
const told = (project: TestProject) =>
  project.json(inspect).report.findings.map(({ code, variable, place }: Said) => `${code} ${variable} ${place.path}`);

describe('a web shell: its main process is built with the plugin, and packed by the shell’s own packer', () => {
  const shell = (main: string) =>
    ferryProject({
      'adder.yaml': desktop('out/app.asar'),
      'package.json': '{ "type": "module" }',
      'src/main.js': main,
      'build.js': `import { build } from 'esbuild';
import adder from '${program.replace(/adder\.cjs$/, 'plugin/esbuild.js')}';
import asar from '@electron/asar';
await build({ entryPoints: ['src/main.js'], outfile: 'app/main.cjs', bundle: true, platform: 'node', plugins: [adder()], logLevel: 'error' });
await asar.createPackage('app', 'out/app.asar');`,
    }).withPackages();
  const reads = 'console.log(process.env.FERRY_API_URL, process.env.HOME, process.env.FERRY_API_URL_AT_RUN)';

  test('only compiled values exist however the app is started', () => {
    const project = shell(reads);
    expect(project.adder(build)).toMatchObject({ code: 0 });
    const start = (env: NodeJS.ProcessEnv) =>
      spawnSync(process.execPath, [project.path('app/main.cjs')], { env, encoding: 'utf8' }).stdout;
    expect(start({ HOME: '/home/crew', FERRY_API_URL_AT_RUN: 'from the terminal' })).toBe(
      `${address} /home/crew from the terminal\n`,
    );
    // A desktop starts it without the variables of any terminal.
    expect(start({ HOME: '/home/crew' })).toBe(`${address} /home/crew undefined\n`);
    expect(told(project)).toEqual([]);
  });

  test('a server value read by the main process stops the build, though it runs in Node.js', () => {
    const { code, stderr } = shell('console.log(process.env.FARE_SIGNING_KEY)').adder(build);
    expect(code).toBe(1);
    expect(stderr).toContain(
      'src/main.js:1:25 FARE_SIGNING_KEY, a server-only variable, is read by a module that ships in the app',
    );
  });

  test('an env file among the packed files is a leak, with every value in it', async () => {
    const project = shell(reads);
    expect(project.adder(build)).toMatchObject({ code: 0 });
    project.write('app/.env', project.read('.env.production'));
    await packAsar(project.path('app'), project.path('out/app.asar'));
    const leaks = ['FARE_SIGNING_KEY', 'LEDGER_DATABASE_URL', 'SOURCE_MAP_UPLOAD_TOKEN'];
    expect(told(project).filter((one: string) => one.startsWith('leak/'))).toEqual([
      'leak/env-file undefined out/app.asar',
      ...leaks.map((name) => `leak/known-value ${name} out/app.asar`),
    ]);
  });
});

const hasRust = spawnSync('rustc', ['--version']).status === 0;
if (!hasRust) console.warn('no rustc on this machine: the native part of a desktop shell is not compiled');

describe.skipIf(!hasRust)('a native part in Rust', () => {
  const native = (main: string) => ferryProject({ 'adder.yaml': desktop('out'), 'src/main.rs': main, 'out/.keep': '' });
  const compile = ['with', 'production', '--', 'rustc', 'src/main.rs', '-o', 'out/desk'];
  // The compiler may be a proxy that needs to know where its toolchains are.
  const rust = Object.fromEntries(
    ['RUSTUP_HOME', 'CARGO_HOME', 'RUSTUP_TOOLCHAIN', 'HOME'].flatMap((name) => {
      const value = process.env[name];
      return value === undefined ? [] : [[name, value]];
    }),
  );
  const withRust = (project: TestProject) => {
    project.write('adder.yaml', `${project.read('adder.yaml')}passes: [RUSTUP_HOME, CARGO_HOME, RUSTUP_TOOLCHAIN]\n`);
    return project.adder(compile, rust);
  };

  test('a define of the compiler holds the public value, and nothing else of the stage', () => {
    const project = native(
      'fn main() { println!("{:?} {:?}", option_env!("FERRY_API_URL"), option_env!("FARE_SIGNING_KEY")); }',
    );
    expect(withRust(project)).toMatchObject({ code: 0 });
    expect(spawnSync(project.path('out/desk'), { env: {}, encoding: 'utf8' }).stdout).toBe(`Some("${address}") None\n`);
    expect(told(project)).toEqual([]);
  });

  test('an env file that is embedded as text is found in the binary', () => {
    const project = native('fn main() { println!("{}", include_str!("../.env.production").len()); }');
    expect(withRust(project)).toMatchObject({ code: 0 });
    expect(told(project)).toContain('leak/known-value FARE_SIGNING_KEY out/desk');
    project.expectNone([key], project.adder(inspect));
  });
});
