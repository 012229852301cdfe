import { spawnSync } from 'node:child_process';
import { chmodSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { ferryProject, program, secrets, TestProject } from '../support/adder.js';

const git = (at: TestProject, ...args: string[]) => {
  const settings = ['-c', 'user.name=T', '-c', 'user.email=t@saltmarsh.test', '-c', 'commit.gpgsign=false'];
  const { status, stderr } = spawnSync('git', [...settings, ...args], { cwd: at.folder, encoding: 'utf8' });
  expect(status, stderr).toBe(0);
};

const hidden = Object.values(secrets);

/** A repository with a past: an env file and a value that are both gone, and a file that is tracked. */
function repository(): TestProject {
  const at = ferryProject({
    'src/main.ts': 'export const api = import.meta.env.FERRY_API_URL;\nimport.meta.env.VITE_TIDE_CHART;\n',
    'src/gone.ts': `export const key = '${secrets.FARE_SIGNING_KEY}';\n`,
    'old.env': 'A=1\n',
    '.gitignore': '.env.staging\n',
  });
  git(at, 'init', '--quiet');
  git(at, 'add', '.');
  git(at, 'commit', '--quiet', '-m', 'one');
  git(at, 'rm', '--quiet', 'src/gone.ts', 'old.env');
  git(at, 'commit', '--quiet', '-m', 'two');
  return at;
}

describe('adder lint', () => {
  test('scripts that ship as they are get no values, but for workers that the tool bundles', () => {
    const read = 'f(import.meta.env.VITE_FERRY_API_URL);\n';
    const at = ferryProject({
      'src/main.ts': [
        "new Worker(new URL('./bundled.js', import.meta.url));",
        "navigator.serviceWorker.register(new URL('./started.js', import.meta.url));",
        "import address from './address.js?url';",
        'f(address);\n',
      ].join('\n'),
      'src/bundled.js': read,
      'src/started.js': `${read}import './beside.js';\n`,
      'src/beside.js': read,
      'src/address.js': read,
      'public/served.js': `${read}process.env.NODE_ENV; process.env.OF_OTHERS;\n`,
      'public/with-own.js': 'f(window.config.FERRY_API_URL);\n',
    });
    const { report } = at.json(['lint']);
    const said = report.findings
      .filter(({ code }: { code: string }) => code === 'code/unreachable-read')
      .map(({ place, message }: { place: { path: string }; message: string }) => `${place.path}: ${message}`);
    expect(said).toEqual([
      'public/served.js: VITE_FERRY_API_URL is undefined here: vite copies this directory',
      'src/address.js: VITE_FERRY_API_URL is undefined here: vite copies a script that code starts by its address',
      'src/started.js: VITE_FERRY_API_URL is undefined here: vite copies a script that code starts by its address',
    ]);
  });

  test('code, repository and its history are in one report without a secret', () => {
    const at = repository();
    const { code, report } = at.json(['lint']);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect([code, report.command, report.coverage.files]).toEqual([1, 'lint', 1]);
    const said = report.findings.map(({ code, variable, place, message }: Record<string, unknown>) => [
      code,
      variable,
      (place as { path: string }).path,
      message,
    ]);
    const commits = String.raw`[0-9a-f]{7,} \(\d{4}-\d\d-\d\d\)`;
    expect(said).toContainEqual([
      'repo/in-history',
      'FARE_SIGNING_KEY',
      'src/gone.ts',
      expect.stringMatching(`src/gone.ts, first in ${commits}, last changed in ${commits}$`),
    ]);
    expect(said).toContainEqual([
      'repo/in-history',
      undefined,
      'old.env',
      expect.stringMatching('^the git history contains old.env'),
    ]);
    expect(said).toContainEqual([
      'repo/tracked',
      undefined,
      '.env.production',
      expect.stringMatching('contains values of FARE_SIGNING_KEY'),
    ]);
    expect(said).toContainEqual([
      'code/unknown-name',
      'FERRY_API_URL',
      'src/main.ts',
      expect.stringMatching('prefix VITE_ is missing'),
    ]);
    for (const format of ['text', 'json', 'sarif']) at.expectNone(hidden, at.adder(['lint', '--format', format]));
  });

  test('a contract below the top of the repository: paths are relative to its directory', () => {
    const top = new TestProject();
    for (const [path, text] of Object.entries({
      'web/adder.yaml':
        'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { FARE_SIGNING_KEY: server }\n',
      'web/.env': `FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
      'web/src/gone.ts': `'${secrets.FARE_SIGNING_KEY}'`,
      '.gitignore': '.env\n',
    }))
      top.write(path, text);
    git(top, 'init', '--quiet');
    expect(top.json(['lint', '--contract', 'web/adder.yaml']).code).toBe(1);
    git(top, 'add', '.');
    git(top, 'commit', '--quiet', '-m', 'one');
    git(top, 'rm', '--quiet', 'web/src/gone.ts');
    git(top, 'commit', '--quiet', '-m', 'two');
    const { report } = top.json(['lint', '--contract', 'web/adder.yaml']);
    expect(
      report.findings.map(({ code, place }: { code: string; place: { path: string } }) => [code, place.path]),
    ).toEqual([['repo/in-history', 'src/gone.ts']]);
  });

  test('--fix --dry-run shows a diff that git applies, and writes nothing', () => {
    const at = repository();
    const before = at.read('src/main.ts');
    const dry = at.adder(['lint', '--fix', '--dry-run']);
    expect([dry.code, dry.stderr]).toEqual([0, 'adder: 1 place in 1 file would be fixed\n']);
    expect(dry.stdout).toContain(
      '-export const api = import.meta.env.FERRY_API_URL;\n+export const api = import.meta.env.VITE_FERRY_API_URL;\n',
    );
    expect(at.read('src/main.ts')).toBe(before);
    const applied = spawnSync('git', ['apply', '--check'], { cwd: at.folder, input: dry.stdout, encoding: 'utf8' });
    expect(applied.stderr).toBe('');
  });

  test('--fix writes, and reports the remaining findings', () => {
    const at = repository();
    const before = at.read('src/main.ts');
    const fixed = at.adder(['lint', '--fix']);
    expect(at.read('src/main.ts')).toBe(before.replace('FERRY', 'VITE_FERRY'));
    expect(fixed.stdout).not.toContain('code/unknown-name');
  });

  test('--since: only findings in changed and new files', () => {
    const at = repository();
    at.write('src/new.ts', 'import.meta.env.VITE_FERRY_API_ULR;\n');
    at.write('src/main.ts', `import './new';\n${at.read('src/main.ts')}`);
    git(at, 'checkout', '--quiet', '--', 'src/main.ts');
    at.write(
      'adder.yaml',
      at.read('adder.yaml').replace('code: [src]', 'code: [src], entry: [src/main.ts, src/new.ts]'),
    );
    const paths = at
      .json(['lint', '--since', 'HEAD'])
      .report.findings.map(({ place }: { place: { path: string } }) => place.path);
    expect([...new Set(paths)].sort()).toEqual(['adder.yaml', 'src/new.ts']);
    const unknown = at.adder(['lint', '--since', 'nowhere']);
    expect([unknown.code, unknown.stderr]).toEqual([
      2,
      expect.stringContaining('git does not know the revision "nowhere"'),
    ]);
  });

  test('SARIF: a rule for each code, a place with region, a stable fingerprint', () => {
    const { stdout } = repository().adder(['lint', '--format', 'sarif']);
    const [run] = JSON.parse(stdout).runs;
    const result = run.results.find(({ ruleId }: { ruleId: string }) => ruleId === 'code/unknown-name');
    expect(run.tool.driver.rules[result.ruleIndex]).toMatchObject({
      id: 'code/unknown-name',
      defaultConfiguration: { level: 'error' },
    });
    expect(result).toMatchObject({
      level: 'error',
      locations: [
        {
          physicalLocation: {
            artifactLocation: { uri: 'src/main.ts' },
            region: { startLine: 1, startColumn: 36, endColumn: 49 },
          },
        },
      ],
      partialFingerprints: { 'adder/v1': expect.stringMatching(/^\w{8,}$/) },
    });
  });

  test('--explain prints what a code means', () => {
    const at = new TestProject({
      'adder.yaml': 'adder: 1\nstages: { a: { layers: [.env] } }\nbundles: { web: { code: [src] } }\nvariables: {}\n',
    });
    expect(at.adder(['lint', '--explain', 'code/fallback']).stdout).toMatch(
      /^code\/fallback \(warning\): a fallback in code hides/,
    );
  });

  test('--explain of a code that does not exist names a near one', () => {
    const at = new TestProject({
      'adder.yaml': 'adder: 1\nstages: { a: { layers: [.env] } }\nbundles: { web: { code: [src] } }\nvariables: {}\n',
    });
    expect(at.adder(['lint', '--explain', 'code/falback'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining('code/fallback'),
    });
  });

  test('a contract without code is not clean', () => {
    const at = new TestProject({
      'adder.yaml': 'adder: 1\nstages: { a: { layers: [.env] } }\nbundles: { web: { code: [src] } }\nvariables: {}\n',
    });
    const empty = at.adder(['lint']);
    expect([empty.code, empty.stdout]).toEqual([
      3,
      expect.stringContaining('src is in `code` of web, but does not exist'),
    ]);
  });

  test('files of any name are read, or listed', () => {
    const at = ferryProject({
      'src/a\nb/c.js': 'import.meta.env.VITE_FERRY_API_UR;\n',
      'src/large.js': 'x;'.repeat(3_000_000),
      'src/deep.js': `x = ${'['.repeat(60_000)}`,
    });
    const { report } = at.json(['lint']);
    const told = report.findings.map(
      ({ code, place }: { code: string; place?: { path: string } }) => `${code} ${place?.path}`,
    );
    expect(told).toEqual(expect.arrayContaining(['code/unknown-name src/a\nb/c.js', 'code/unread src/deep.js']));
    expect(report.coverage.unread).toEqual([{ path: 'src/large.js', inside: [], because: 'is larger than 4.2 MB' }]);
  });
});

describe('a repository that git does not read is not clean', () => {
  /** A project whose env files git ignores, with two layers that it cannot hold. */
  function ignoring(): TestProject {
    const at = ferryProject({ 'web/src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL)', '.gitignore': '.env*\n' });
    at.write(
      'adder.yaml',
      at
        .read('adder.yaml')
        .replace('code: [src]', 'code: [web/src]')
        .replace('[.env, .env.production', '[.env, ../outside/.env, nested/.env, .env.production'),
    );
    at.write('nested/.env', 'FARE_SIGNING_KEY=x\n');
    for (const top of [at, { folder: at.path('nested') } as TestProject]) git(top, 'init', '--quiet');
    git(at, 'add', 'web', 'adder.yaml');
    git(at, 'commit', '--quiet', '-m', 'one');
    return at;
  }

  const repoFindings = ({ findings }: { findings: { code: string }[] }) =>
    findings.filter((one) => one.code.startsWith('repo/'));

  test('one that belongs to another user, until the remedy is followed', () => {
    const at = ignoring();
    // Git's own switch for its tests; a machine may trust every directory.
    const env = { GIT_TEST_ASSUME_DIFFERENT_OWNER: '1', GIT_CONFIG_NOSYSTEM: '1', HOME: at.path('home') };
    at.write('home/.gitconfig', '');
    const { code, report } = at.json(['lint'], env);
    const [{ path, because }] = report.coverage.unread;
    expect([code, repoFindings(report), path]).toEqual([3, [], '.git']);
    const [, remedy = ''] = /^belongs to another user, .* is not known; run `(.*)`$/.exec(because) ?? [];
    expect(remedy).toContain(at.folder);
    expect(spawnSync('sh', ['-c', remedy], { env: { ...process.env, ...env } }).status).toBe(0);
    const after = at.json(['lint'], env);
    expect([after.code, repoFindings(after.report), after.report.coverage.unread]).toEqual([0, [], []]);
  });

  test('without git', () => {
    const at = ignoring();
    const { code, stdout, stderr } = at.adder(['lint'], { PATH: at.folder });
    expect([code, stderr]).toEqual([3, '']);
    expect(stdout).toContain(
      '.git cannot be read: git is not installed, so what it discloses is not known; install git',
    );
    const since = at.adder(['lint', '--since', 'HEAD'], { PATH: at.folder });
    expect([since.code, since.stderr]).toEqual([
      3,
      'adder: the git repository cannot be read: git is not installed\n  → install git\n',
    ]);
    const fill = at.adder(
      ['fill', 'production', '--from-stdin', 'FARE_SIGNING_KEY'],
      { PATH: at.folder },
      { input: secrets.FARE_SIGNING_KEY },
    );
    expect([fill.code, fill.stderr]).toEqual([3, since.stderr]);
  });

  test('without a repository there are no revisions', () => {
    const { code, stderr } = ferryProject({ 'src/a.ts': '' }).adder(['lint', '--since', 'main']);
    expect([code, stderr]).toEqual([
      2,
      'adder: --since needs a git repository, and there is none here\n  → remove --since\n',
    ]);
  });

  test('in a hook of a work tree, for a project below the top', () => {
    const top = new TestProject({ 'main/.gitignore': '.env*', 'main/a.txt': '' });
    const main = { folder: top.path('main') } as TestProject;
    git(main, 'init', '--quiet');
    git(main, 'add', '.');
    git(main, 'commit', '--quiet', '-m', 'one');
    git(main, 'worktree', 'add', '--quiet', top.path('tree'), '-b', 'other');
    const project = ferryProject();
    for (const name of ['adder.yaml', '.env', '.env.production']) top.write(`tree/web/${name}`, project.read(name));
    top.write('tree/web/src/main.ts', '');
    const lint = `cd web && "${process.execPath}" "${program}" lint --format json > ../../report.json; true`;
    top.write('main/.git/hooks/pre-commit', `#!/bin/sh\n${lint}\n`);
    chmodSync(top.path('main/.git/hooks/pre-commit'), 0o755);
    git({ folder: top.path('tree') } as TestProject, 'add', '.');
    git({ folder: top.path('tree') } as TestProject, 'commit', '--quiet', '-m', 'two');
    expect(repoFindings(JSON.parse(top.read('report.json')))).toEqual([]);
  });

  test('tracked files that this user may not read are named', () => {
    const at = ferryProject({
      'src/a.ts': '',
      '.gitignore': '.env\n.env.*',
      'notes.md': secrets.FARE_SIGNING_KEY,
      'web/.env.other': 'A_KEY=x',
      // For root there are no such files.
      'preload.cjs': `const fs = require('node:fs'), { statSync } = fs;
fs.statSync = (path, ...more) => {
  if (/notes|other/.test(path)) throw Object.assign(new Error(), { code: 'EACCES', syscall: 'stat', path });
  return statSync(path, ...more);
};`,
    });
    git(at, 'init', '--quiet');
    git(at, 'add', '--force', 'notes.md', 'web/.env.other');
    const { code, report } = at.json(['lint'], { NODE_OPTIONS: '--require ./preload.cjs' });
    expect([
      code,
      report.coverage.unread.map(({ path, because }: Record<string, string>) => `${path} ${because}`).sort(),
    ]).toEqual([3, ['notes.md cannot be read: permission denied', 'web/.env.other cannot be read: permission denied']]);
  });
});
