import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, ferryProject, program, secrets, TestProject } from '../support/adder.js';

const build = [
  'with',
  'production',
  '--',
  process.execPath,
  '-e',
  "const fs = require('fs'); fs.mkdirSync('dist', { recursive: true }); fs.writeFileSync('dist/a.js', process.env.VITE_FERRY_API_URL + Math.random())",
];

function built(): TestProject {
  const project = ferryProject();
  expect(project.adder(build).code).toBe(0);
  expect(project.adder(['inspect']).code).toBe(0);
  return project;
}

const receipts = '.adder/receipts/ticket-desk';
const receiptOf = (project: TestProject) => `${receipts}/${readdirSync(project.path(receipts))[0]}`;

describe('state that cannot be read makes an inspection incomplete', () => {
  test.each<[title: string, damage: (project: TestProject) => void, path: RegExp]>([
    [
      'a receipt that breaks off',
      (at) => at.write(receiptOf(at), at.read(receiptOf(at)).slice(0, 200)),
      /receipts\/ticket-desk\/.*\.json$/,
    ],
    [
      'a receipt that was edited',
      (at) => at.write(receiptOf(at), at.read(receiptOf(at)).replace('"values": [', '"values": [ null, ')),
      /\.json$/,
    ],
    [
      'a receipt that is a folder',
      (at) => {
        const path = receiptOf(at);
        rmSync(at.path(path));
        mkdirSync(at.path(path));
      },
      /\.json$/,
    ],
    [
      'receipts that are a file',
      (at) => {
        rmSync(at.path('.adder/receipts'), { recursive: true });
        at.write('.adder/receipts', 'x');
      },
      /receipts$/,
    ],
    ['no key', (at) => rmSync(at.path('.adder/key')), /\.adder\/key$/],
    ['a damaged key', (at) => at.write('.adder/key', 'abc'), /\.adder\/key$/],
  ])('%s', (_, damage, path) => {
    const project = built();
    damage(project);
    const { code, report } = project.json(['inspect', '--stage', 'production']);
    expect(report.findings).toEqual([]);
    expect(report.coverage.unread).toEqual([expect.objectContaining({ path: expect.stringMatching(path) })]);
    expect(code).toBe(3);
    expect(project.adder(['inspect', '--stage', 'production']).stdout).not.toMatch(/^no problems$/m);
  });

  test('an older receipt does not replace the newest', () => {
    const project = built();
    project.write(`${receipts}/2999-01-01T00-00-00.000Z.production.json`, '{');
    expect(project.adder(['inspect', '--stage', 'production']).code).toBe(3);
  });
});

describe('what would keep the receipt from being written is said before the build', () => {
  test.each<[title: string, damage: (project: TestProject) => void]>([
    ['receipts that are a file', (at) => at.write('.adder/receipts', 'x')],
    [
      'a key that leads nowhere',
      (at) => {
        at.write('.adder/x', '');
        symlinkSync('gone', at.path('.adder/key'));
      },
    ],
    ['state that is a file', (at) => at.write('.adder', 'x')],
  ])('%s', (_, damage) => {
    const project = ferryProject();
    damage(project);
    const ran = project.adder([
      'with',
      'production',
      '--',
      process.execPath,
      '-e',
      "require('fs').writeFileSync('ran', '')",
    ]);
    expect(ran.code).not.toBe(0);
    expect(ran.code).not.toBe(70);
    expect(ran.stderr).toContain('.adder');
    expect(readdirSync(project.folder)).not.toContain('ran');
  });

  test('leftovers of killed processes do no harm', () => {
    const project = ferryProject();
    project.write('.adder/key.1', 'x');
    project.write('.adder/uses-ticket-desk.json', '{"a":');
    expect(project.adder(build).code).toBe(0);
  });
});

test('builds at the same time keep their receipts, and the oldest of many go', async () => {
  const project = built();
  const [first] = readdirSync(project.path(receipts));
  const text = project.read(`${receipts}/${first}`);
  for (let index = 0; index < 60; index++)
    writeFileSync(
      project.path(receipts, `2020-01-01T00-00-${String(index).padStart(2, '0')}.000Z.production.json`),
      text,
    );
  const runs = Array.from({ length: 8 }, () => {
    const child = spawn(process.execPath, [program, ...build], {
      cwd: project.folder,
      env: bareEnvironment(),
      stdio: 'ignore',
    });
    return new Promise((resolve) => child.once('exit', resolve));
  });
  expect(await Promise.all(runs)).toEqual(Array.from({ length: 8 }, () => 0));
  expect(readdirSync(project.path(receipts)).length).toBeLessThanOrEqual(58);
});

describe('a state directory that is not the project’s own is refused', () => {
  const inTurn = [build, ['values', 'production'], ['inspect', '--stage', 'production'], ['lint', '--fix']];

  test.each<[title: string, change: (project: TestProject) => void, said: string]>([
    [
      'a link',
      (at) => {
        renameSync(at.path('.adder'), at.path('elsewhere'));
        symlinkSync('elsewhere', at.path('.adder'));
      },
      '.adder is a symlink',
    ],
    [
      'a key that is a link',
      (at) => {
        renameSync(at.path('.adder/key'), at.path('elsewhere'));
        symlinkSync('../elsewhere', at.path('.adder/key'));
      },
      '.adder/key is a symlink',
    ],
    [
      'a key as git writes it',
      (at) => chmodSync(at.path('.adder/key'), 0o644),
      'other users may read .adder/key, as they may read one that a repository brought',
    ],
    [
      'an ignore file with exceptions',
      (at) => at.write('.adder/.gitignore', '*\n!key\n'),
      '.adder/.gitignore does not ignore everything but the history in .adder',
    ],
  ])('%s', (_, change, said) => {
    const project = built();
    change(project);
    const before = readdirSync(project.path('.adder')).sort();
    for (const args of inTurn)
      expect(project.adder(args)).toMatchObject({ code: 3, stderr: expect.stringContaining(said) });
    expect(readdirSync(project.path('.adder')).sort()).toEqual(before);
  });

  test('a key that a repository brings', () => {
    const project = built();
    const git = (at: string, ...args: string[]) => spawnSync('git', args, { cwd: at });
    git(project.folder, 'init', '-q');
    git(project.folder, 'add', '-f', 'adder.yaml', '.adder/key', '.adder/.gitignore');
    git(project.folder, '-c', 'user.name=quay', '-c', 'user.email=quay@saltmarsh.test', 'commit', '-qm', 'all');
    const clone = mkdtempSync(join(tmpdir(), 'adder-test-'));
    git(clone, 'clone', '-q', project.folder, '.');
    const ran = spawnSync(process.execPath, [program, 'values', 'production'], { cwd: clone, encoding: 'utf8' });
    expect(ran).toMatchObject({ status: 3, stderr: expect.stringContaining('chmod 600 .adder/key') });
  });

  test.each(['', '# only a comment\n'])('an ignore file that a killed write left as %j is written again', (text) => {
    const project = built();
    project.write('.adder/.gitignore', text);
    expect(project.adder(build).code).toBe(0);
    expect(project.read('.adder/.gitignore')).toMatch(/^\*$/m);
    expect(readdirSync(project.path('.adder')).filter((name) => name.startsWith('.gitignore'))).toEqual(['.gitignore']);
  });
});

describe('changes at the same time', () => {
  const start = (project: TestProject, args: readonly string[], input: string) => {
    const child = spawn(process.execPath, [program, ...args], { cwd: project.folder, env: bareEnvironment() });
    child.stdin.end(input);
    return new Promise((resolve) => child.once('exit', resolve));
  };

  test('fill: each value is kept', async () => {
    const names = Array.from({ length: 12 }, (_, index) => `QUAY_${index}`);
    const project = new TestProject({
      'adder.yaml': `adder: 1\nstages: { production: { layers: [.env] } }\nvariables:\n${names.map((name) => `  ${name}: public\n`).join('')}`,
      '.env': '# values\n',
    });
    const codes = names.map((name) => start(project, ['fill', 'production', '--from-stdin', name], `berth-of-${name}`));
    expect(await Promise.all(codes)).toEqual(names.map(() => 0));
    const lines = project.read('.env').trim().split('\n').sort();
    expect(lines).toEqual(['# values', ...names.map((name) => `${name}=berth-of-${name}`)].sort());
    expect(existsSync(project.path('.adder'))).toBe(false);
  });

  test('accept: each acceptance is kept', async () => {
    const paths = Array.from({ length: 8 }, (_, index) => `src/a${index}.ts`);
    const project = ferryProject(
      Object.fromEntries(paths.map((path) => [path, `f("https://api.staging.saltmarsh.test", "${path}")`])),
    );
    const { findings } = project.json(['lint']).report;
    const prints: string[] = findings.map((one: { fingerprint: string }) => one.fingerprint);
    expect(prints.length).toBeGreaterThan(6);
    const codes = prints.map((print) => start(project, ['accept', print, '--because', 'a test'], ''));
    expect(await Promise.all(codes)).toEqual(prints.map(() => 0));
    for (const print of prints) expect(project.read('adder.yaml')).toContain(print);
  });

  test('a lock whose process has ended is no obstacle', async () => {
    const project = ferryProject({ '.env.production': '' });
    const path = project.path('.env.production');
    const lock = `.adder/lock-${createHash('sha256').update(path).digest('hex').slice(0, 16)}`;
    const ended = spawnSync(
      process.execPath,
      ['-p', 'process.pid + " " + os.hostname().replace(/[^A-Za-z0-9]/g, "").slice(0, 40)'],
      { encoding: 'utf8' },
    );
    project.write(lock, `${ended.stdout.trim()} x`);
    expect(await start(project, ['fill', 'production', '--from-stdin', 'FERRY_API_URL'], 'https://a.example')).toBe(0);
    expect(existsSync(project.path(lock))).toBe(false);
  });
});

describe('another process changes the state directory in the middle of a step', () => {
  // Runs once, when the program makes this call of the file system with this path.
  const other = (call: string, path: string, action: string) => `
const fs = require('node:fs');
const { ${call}: real } = fs;
let isDone = false;
fs.${call} = (path, ...more) => {
  if (!isDone && /${path}/.test(String(path))) {
    isDone = true;
    fs.writeFileSync('seen', '');
    ${action}
  }
  return real(path, ...more);
};`;
  const removal = "fs.rmSync('.adder', { recursive: true });";
  const fix = ['lint', '--fix'];

  test.each<[title: string, preload: string, args: string[], left: string[]]>([
    [
      'removes it before the key is written',
      other('openSync', 'adder.tmp.*key$', removal),
      build,
      ['.gitignore', 'history', 'key', 'receipts', 'tmp'],
    ],
    [
      'removes it before it ignores itself',
      other('lstatSync', 'gitignore', removal),
      build,
      ['.gitignore', 'history', 'key', 'receipts', 'tmp'],
    ],
    ['removes it before a source file is written', other('openSync', 'adder.tmp', removal), fix, []],
    [
      'writes the key while it is removed',
      other('rmdirSync', 'adder$', "fs.writeFileSync('.adder/key', '', { mode: 0o600 });"),
      fix,
      ['.gitignore', 'key'],
    ],
  ])('%s', (_, preload, args, left) => {
    const project = ferryProject({ 'src/a.ts': 'f(import.meta.env.FERRY_API_URL)', 'preload.cjs': preload });
    const { code } = project.adder(args, { NODE_OPTIONS: '--require ./preload.cjs' });
    expect([code, existsSync(project.path('seen'))]).toEqual([0, true]);
    const folder = project.path('.adder');
    expect(existsSync(folder) ? readdirSync(folder).sort() : []).toEqual(left);
  });
});

describe('what fails later loses nothing that was found before', () => {
  const leak = `x = "${secrets.FARE_SIGNING_KEY}";`;
  test.each<[title: string, files: Record<string, string>, unread: string | undefined]>([
    [
      'a script that nests without end',
      { 'dist/a.js': `${leak} y = ${'['.repeat(60_000)}"${secrets.FARE_SIGNING_KEY.slice(0, 14)}"` },
      'could not be parsed',
    ],
    ['a map that is not valid JSON', { 'dist/a.js': leak, 'dist/a.js.map': '{' }, 'has a source map that is damaged'],
    [
      'a map with mappings that lead before the beginning',
      { 'dist/a.js': leak, 'dist/a.js.map': '{"version":3,"sources":["a"],"mappings":"DDDD"}' },
      undefined,
    ],
    [
      'a map at an address that cannot be decoded',
      { 'dist/a.js': `${leak}\n//# sourceMappingURL=%E0%A4%A` },
      undefined,
    ],
  ])('%s', (_, files, because) => {
    const { code, report } = ferryProject(files).json(['inspect', '--stage', 'production']);
    expect([code, report.findings.map((one: { code: string }) => one.code)]).toEqual([1, ['leak/known-value']]);
    if (because) expect(report.coverage.unread[0].because).toContain(because);
  });

  test('a source that is a symlink out of the project, or no source file, is not read', () => {
    const map = (source: string) => JSON.stringify({ version: 3, sources: [source], mappings: 'AAAA' });
    const project = ferryProject({
      'dist/a.js': leak,
      'dist/b.js': leak,
      'dist/b.js.map': map('../notes.txt'),
      'notes.txt': 'private words\n',
    });
    const outside = ferryProject({ 'secret.js': 'words of another project\n' });
    symlinkSync(outside.path('secret.js'), project.path('linked.js'));
    project.write('dist/a.js.map', map('../linked.js'));
    const { stdout } = project.adder(['inspect', '--stage', 'production']);
    expect(stdout).not.toMatch(/words/);
  });
});
