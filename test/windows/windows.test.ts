import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { windowsPath, windowsProgram, wineEnvironment } from '../support/windows.js';

/** `npm run windows` runs these with the program for Windows; elsewhere there is nothing to run them on. */
const windows = windowsProgram();

/** A value with a secret's look. */
const KEY = '8f2c71d05be94a36c7d1e08b5f3a92647c1d0e5b';

const crlf = (text: string) => text.replaceAll('\n', '\r\n');

const contract = `adder: 1
stages: { production: { layers: [.env, process] } }
bundles: { desk: { toolchain: vite, code: [src], output: dist, build: node build.mjs } }
variables:
  FERRY_API_URL: public
  FARE_SIGNING_KEY: { reach: server, required: false }
`;

const builder = `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist/assets', { recursive: true });
writeFileSync('dist/assets/main.js', 'f("' + process.env.VITE_FERRY_API_URL + '")');
`;

/** A project whose path has a space and a letter of another script, and whose files have lines as Windows ends them. */
function project(files: Record<string, string | Uint8Array> = {}): TestProject {
  return new TestProject(
    {
      'adder.yaml': crlf(`\ufeff${contract}`),
      '.env': crlf(`VITE_FERRY_API_URL=https://api.saltmarsh.example\nFARE_SIGNING_KEY=${KEY}\n`),
      'src/main.ts': crlf("import { go } from './go';\ngo(import.meta.env.VITE_FERRY_API_URL);\n"),
      'src/go.ts': 'export const go = (url: string) => fetch(url);\n',
      'build.mjs': builder,
      ...files,
    },
    'quay 7/фарватер',
  );
}

describe.skipIf(!windows)('on Windows', () => {
  test('lines that end with CRLF: values have no carriage return, and a build inlines them', () => {
    const at = project();
    const { report } = at.json(['values', 'production']);
    expect(report.values[0]).toMatchObject({ name: 'FERRY_API_URL', value: 'https://api.saltmarsh.example' });
    expect(at.adder(['with', 'production']).code).toBe(0);
    expect(at.read('dist/assets/main.js')).toBe('f("https://api.saltmarsh.example")');
    expect(at.json(['inspect', '--stage', 'production'])).toMatchObject({
      code: 0,
      report: {
        answers: { nothingLeaked: { answer: 'yes' }, allThere: { answer: 'yes' }, current: { answer: 'yes' } },
      },
    });
    expect(at.adder(['lint']).stdout).toContain('no problems');
  });

  test('reports have slashes, however a path is written', () => {
    const at = project({
      'dist/assets/main.js': `f("${KEY}")`,
      '.env': `FARE_SIGNING_KEY=${KEY}\nFERRY_API_URL=https://a.test\n`,
    });
    const paths = (...args: string[]) =>
      at
        .json(['inspect', '--stage', 'production', ...args])
        .report.findings.filter(({ code }: { code: string }) => code === 'leak/known-value')
        .map(({ place }: { place: { path: string } }) => place.path);
    const drive = windowsPath(at.path('dist'));
    for (const path of [
      'dist',
      'dist\\assets',
      'dist\\*',
      'dist/**/*.js',
      '.\\dist/assets\\main.js',
      drive,
      `\\\\?\\${drive}`,
    ])
      expect(paths(path), path).toEqual(['dist/assets/main.js']);
    expect(at.json(['values', 'production', '--contract', windowsPath(at.path('adder.yaml'))]).code).toBe(0);
  });

  test('edits keep CRLF', () => {
    const at = project({ 'src/main.ts': crlf('go(\n  import.meta.env.VITE_FERRY_API_ULR,\n);\n') });
    at.adder(['lint', '--fix']);
    expect(at.read('src/main.ts')).toBe(crlf('go(\n  import.meta.env.VITE_FERRY_API_URL,\n);\n'));
    expect(
      at.adder(['fill', 'production', '--set', 'FARE_SIGNING_KEY', '--stdin', '--file', '.env'], {}, { input: KEY })
        .code,
    ).toBeTypeOf('number');
  });

  test('the environment has names in any case', () => {
    const at = project({ '.env': '' });
    const { report } = at.json(['values', 'production'], { ferry_api_url: 'https://lower.saltmarsh.test' });
    expect(report.values[0]).toMatchObject({ value: 'https://lower.saltmarsh.test', state: 'set' });
  });

  test('a program in a .cmd file gets its words, and npm run works through one', () => {
    const at = project({ 'package.json': '{ "scripts": { "build": "node build.mjs" } }' });
    at.write('node_modules/.bin/show.cmd', '@ECHO off\r\nnode "%~dp0..\\show.cjs" %*\r\n');
    at.write(
      'node_modules/show.cjs',
      "require('fs').writeFileSync('words.json', JSON.stringify(process.argv.slice(2)));",
    );
    const words = ['a b', 'c"d', 'g^h', 'x|y', '', 'ü', 'C:\\dir\\'];
    expect(at.adder(['with', 'production', '--', 'node_modules\\.bin\\show.cmd', ...words]).code).toBe(0);
    expect(JSON.parse(at.read('words.json'))).toEqual(words);
    const npm = dirname(
      spawnSync('readlink', ['-f', spawnSync('which', ['npm'], { encoding: 'utf8' }).stdout.trim()], {
        encoding: 'utf8',
      }).stdout.trim(),
    );
    at.write('npm.cmd', `@ECHO off\r\nnode "${windowsPath(join(npm, 'npm-cli.js'))}" %*\r\n`);
    const ran = at.adder(['with', 'production', '--', 'npm', 'run', 'build']);
    expect(ran.code, ran.stderr).toBe(0);
    expect(ran.stderr).toContain('built 1 file');
  });

  test('a key needs no permissions that Windows lacks', () => {
    const at = project();
    expect(at.adder(['key']).stdout).toContain('created in .adder/key');
    expect(at.adder(['key']).code).toBe(0);
    expect(at.adder(['with', 'production']).code).toBe(0);
    expect(existsSync(at.path('.adder/receipts/desk'))).toBe(true);
  });

  test('paths longer than 260 characters', () => {
    const at = project();
    const deep = Array.from({ length: 9 }, () => 'pier'.repeat(10)).join('/');
    at.write(`dist/${deep}/a.js`, `f("${KEY}")`);
    at.write('.env', `FARE_SIGNING_KEY=${KEY}\nFERRY_API_URL=https://a.test\n`);
    const { report } = at.json(['inspect', '--stage', 'production']);
    expect(report.findings.map(({ place }: { place?: { path: string } }) => place?.path)).toContain(
      `dist/${deep}/a.js`,
    );
  });

  test('a stage and a bundle with names that Windows reserves', () => {
    const at = project({ 'adder.yaml': contract.replace('production:', 'con:').replace('desk:', 'aux:') });
    expect(at.adder(['with', 'con']).code).toBe(0);
    expect(at.json(['inspect', '--stage', 'con']).report.answers.current.answer).toBe('yes');
  });

  test('a receipt is written while another program has a file beside it open', async () => {
    const at = project();
    at.adder(['with', 'production']);
    const reader = join(at.folder, 'hold.cjs');
    writeFileSync(
      reader,
      "const fs = require('fs'); fs.openSync('dist/assets/main.js'); fs.openSync('.adder/key'); fs.writeFileSync('held', ''); setTimeout(() => {}, 20000);",
    );
    const { node } = windows as NonNullable<typeof windows>;
    const holder = spawn('wine', [node, 'hold.cjs'], {
      cwd: at.folder,
      env: wineEnvironment(windows as NonNullable<typeof windows>),
      stdio: 'ignore',
    });
    try {
      while (!existsSync(at.path('held'))) await new Promise((resolve) => setTimeout(resolve, 50));
      expect(at.adder(['with', 'production']).code).toBe(0);
      expect(at.adder(['inspect', '--stage', 'production', '--save', 'report.json']).code).toBe(0);
    } finally {
      holder.kill();
    }
  });

  test('files whose names differ in case are one', () => {
    const at = project({ 'adder.yaml': contract.replace('[.env,', '[.ENV.yaml, .env,') });
    mkdirSync(at.path('dist'), { recursive: true });
    const { report } = at.json(['values', 'production']);
    expect(report.values[0]).toMatchObject({ state: 'set' });
  });
});
