import { spawn } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, rmSync, statSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { describe, expect, test, vi } from 'vitest';
import { bareEnvironment, program, secrets, TestProject } from '../support/adder.js';

const contract = `adder: 1
stages: { production: { layers: [.env, .env.production] } }
bundles: { desk: { toolchain: vite, code: [src, index.html], output: [dist] } }
variables:
  API_URL: { reach: public, form: url }
  FARE_SIGNING_KEY: server
  UPLOAD_TOKEN: { reach: build, required: false }
`;

const app = {
  'adder.yaml': contract,
  '.env': `FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
  '.env.production': 'VITE_API_URL=https://api.saltmarsh.example\n',
  '.gitignore': '.env*\ndist\nnode_modules\n',
  'package.json': '{ "type": "module", "private": true }',
  'index.html': '<!doctype html><script type="module" src="/src/main.js"></script>\n',
  'src/main.js': 'console.log(import.meta.env.VITE_API_URL);\nconsole.log(__KEY__);\n',
  'vite.config.js': `export default {
  build: { sourcemap: true, outDir: process.env.OUT_FOLDER ?? 'dist' },
  define: { __KEY__: JSON.stringify(btoa(process.env.FARE_SIGNING_KEY ?? '')) },
};\n`,
};

/** Copies of other tests are elsewhere. */
const temporary = new TestProject().folder;

/** A project that a script of Node.js builds. */
const scripted = (script: string) =>
  new TestProject({
    'adder.yaml': contract.replace('toolchain: vite', 'toolchain: other'),
    '.env': app['.env'],
    '.env.production': 'API_URL=https://api.saltmarsh.example\n',
    'src/main.js': 'console.log(process.env.API_URL);\n',
    'build.mjs': script,
  });

/** All files with their texts and times. */
function stateOf(project: TestProject): Map<string, string> {
  const paths = readdirSync(project.folder, { recursive: true, encoding: 'utf8' });
  // The state of Adder is its own.
  const own = paths.filter((path) => !/^(node_modules|\.adder)/.test(path));
  return new Map(
    own.flatMap((path) => {
      const { mtimeMs, ...stats } = statSync(project.path(path));
      return 'size' in stats && statSync(project.path(path)).isFile()
        ? [[path, `${mtimeMs} ${readFileSync(project.path(path), 'latin1')}`]]
        : [];
    }),
  );
}

function reportOf(project: TestProject, ...command: readonly string[]) {
  const { code, stdout, stderr } = project.adder(['trial', 'production', '--format', 'json', '--', ...command], {
    TMPDIR: temporary,
  });
  if (stdout === '') throw new Error(stderr);
  return { code, report: JSON.parse(stdout) };
}

const leftovers = () => readdirSync(temporary).filter((name) => name.startsWith('adder-trial-'));

test('a define file of the command has made-up values', () => {
  const project = scripted(
    "const fs = require('node:fs'); fs.mkdirSync('dist', { recursive: true }); fs.copyFileSync(process.argv[2], 'dist/app.js');",
  );
  project.write('build.cjs', project.read('build.mjs'));
  const { report } = reportOf(project, 'node', 'build.cjs', '{defines}');
  const row = report.rows.find(({ name }: { name: string }) => name === 'API_URL');
  expect(row.arrivesIn.map(({ path }: { path: string }) => path)).toEqual(['dist/app.js']);
  expect(project.read('adder.yaml')).toContain('API_URL');
});

test('a name by which the build chooses its stage is left as it is', () => {
  const project = scripted('');
  project.write('build.config.mjs', '');
  project.write(
    'rollup.config.js',
    "const stage = process.env.STAGE ?? 'development';\nexport default { input: 'src/main.js', output: { dir: 'dist' }, stage };\n",
  );
  project.write(
    'adder.yaml',
    `${contract.replace('toolchain: vite', 'toolchain: rollup')}  STAGE: { reach: build, required: false }\n`,
  );
  project.write(
    'build.mjs',
    "import fs from 'node:fs'; fs.mkdirSync('dist', { recursive: true }); fs.writeFileSync('dist/app.js', String(process.env.STAGE));",
  );
  const { report } = reportOf(project, 'node', 'build.mjs');
  expect(report.rows.find(({ name }: { name: string }) => name === 'STAGE')?.arrivesIn ?? []).toEqual([]);
});

describe('a trial of a real build', () => {
  const project = new TestProject(app);
  mkdirSync(project.path('node_modules'));
  symlinkSync(join(import.meta.dirname, '../../node_modules/vite'), project.path('node_modules/vite'));
  const before = stateOf(project);
  const { code, report } = reportOf(project, 'node', 'node_modules/vite/bin/vite.js', 'build', '--logLevel', 'silent');
  const rowOf = (name: string) => report.rows.find((row: { name: string }) => row.name === name);

  test('finds a secret that the configuration encodes, and the line that lets it out', () => {
    const found = report.findings.filter(({ code }: { code: string }) => code === 'trial/lets-out');
    expect(found).toEqual([
      expect.objectContaining({
        level: 'warning',
        variable: 'FARE_SIGNING_KEY',
        place: expect.objectContaining({ path: 'src/main.js', line: 2 }),
        message: expect.stringMatching(
          /into dist\/assets\/index-.*\.js, as base64; its value came from the environment/,
        ),
      }),
    ]);
    expect(code).toBe(0);
  });

  test('says where each name is set, read and arrives', () => {
    expect(rowOf('VITE_API_URL')).toEqual({
      ...{ name: 'VITE_API_URL', variable: 'API_URL', reach: 'public', isUnmarked: false },
      setIn: ['.env.production:1'],
      readBy: ['src/main.js:1'],
      arrivesIn: [
        expect.objectContaining({
          from: '.env.production:1',
          audience: 'browser',
          path: expect.stringMatching(/^dist/),
        }),
      ],
    });
    expect(rowOf('FARE_SIGNING_KEY')?.readBy).toEqual(['vite.config.js:3']);
    expect(rowOf('UPLOAD_TOKEN')?.arrivesIn).toEqual([]);
  });

  test('lists a name that the configuration asks for and nothing sets', () => {
    expect(report.asked).toContainEqual({ name: 'OUT_FOLDER', at: ['vite.config.js'] });
  });

  test('leaves the project as it was, and nothing behind', () => {
    expect(stateOf(project)).toEqual(before);
    expect(leftovers()).toEqual([]);
  });
});

test('no real secret is in the copy or in the environment, unless it is asked for', () => {
  const seen = join(new TestProject().folder, 'seen.json');
  const project = scripted(`import { readFileSync, writeFileSync } from 'node:fs';
writeFileSync(${JSON.stringify(seen)}, JSON.stringify([process.env, readFileSync('.env', 'utf8'), process.cwd()]));`);
  const command = ['trial', 'production', '--', 'node', 'build.mjs'];
  const ran = project.adder(command, secrets);
  for (const secret of Object.values(secrets)) expect(readFileSync(seen, 'utf8')).not.toContain(secret);
  expect(JSON.parse(readFileSync(seen, 'utf8'))[2]).not.toBe(project.folder);
  project.expectNone(Object.values(secrets), ran);
  const real = project.adder(['trial', 'production', '--real', 'FARE_SIGNING_KEY', ...command.slice(2)]);
  expect(readFileSync(seen, 'utf8')).toContain(secrets.FARE_SIGNING_KEY);
  project.expectNone(Object.values(secrets), real);
});

test('an env file behind a symlink is not changed, and its secrets are not in the copy', () => {
  const shared = new TestProject({ env: app['.env'] });
  const seen = join(shared.folder, 'seen');
  const project = scripted(
    `import { readFileSync, writeFileSync } from 'node:fs'; writeFileSync(${JSON.stringify(seen)}, readFileSync('.env'));`,
  );
  rmSync(project.path('.env'));
  symlinkSync(shared.path('env'), project.path('.env'));
  const { report } = reportOf(project, 'node', 'build.mjs');
  expect(shared.read('env')).toBe(app['.env']);
  expect(readFileSync(seen, 'utf8')).toMatch(/^FARE_SIGNING_KEY=t[a-z0-9]{20}\n$/);
  const [row] = report.rows.filter(({ name }: { name: string }) => name === 'FARE_SIGNING_KEY');
  expect(row.setIn).toContain('.env:1');
});

test('reads in child processes and in threads are noted', () => {
  const project = scripted(`import { execFileSync } from 'node:child_process';
import { Worker } from 'node:worker_threads';
execFileSync(process.execPath, ['child.cjs'], { stdio: 'inherit' });
new Worker(new URL('./thread.cjs', import.meta.url));`);
  project.write('child.cjs', '\nprocess.env.OF_CHILD;\n');
  project.write('thread.cjs', "'OF_THREAD' in process.env;\n");
  const { report } = reportOf(project, 'node', 'build.mjs');
  expect(report.asked).toEqual([
    { name: 'OF_CHILD', at: ['child.cjs:2'] },
    { name: 'OF_THREAD', at: ['thread.cjs:1'] },
  ]);
});

test('a build that fails says which names it asked for until then', () => {
  const project = scripted("if (process.env.UPLOAD_TOKEN !== 'right') throw new Error('refused');");
  const { code, stderr } = project.adder(['trial', 'production', '--', 'node', 'build.mjs'], { TMPDIR: temporary });
  expect(code).toBe(1);
  expect(stderr).toMatch(/refused/);
  expect(stderr).toMatch(/failed with made-up values, with exit code 1; .* asked for UPLOAD_TOKEN \(build\.mjs:1\)/);
  expect(stderr).toContain('--real NAME');
  expect(leftovers()).toEqual([]);
});

test('without a command, and with a wrong one, it says what to write', () => {
  const project = scripted('');
  expect(project.adder(['trial', 'production']).stderr).toContain('write it after --');
  expect(project.adder(['trial', 'production', '--', 'no-such-program']).stderr).toContain('was not found');
  expect(project.adder(['trial', 'prodction', '--', 'node', 'build.mjs']).stderr).toContain('production');
  expect(project.adder(['trial']).stderr).toContain('a stage');
});

/** `npm run kills` sets more. */
const KILLS = Number(process.env.ADDER_KILL_RUNS ?? 2);

test('killed at any time, a trial leaves the project as it was, and the next one removes what it left', async () => {
  const project = scripted(`import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('dist/main.js', process.env.API_URL);
writeFileSync('.env', 'changed');
await new Promise((resolve) => setTimeout(resolve, Number(process.env.SLOW ?? 0)));`);
  project.write('adder.yaml', `${project.read('adder.yaml')}passes: [SLOW]\n`);
  project.write('node_modules/part/index.js', '1');
  const before = stateOf(project);
  const args = [program, 'trial', 'production', '--again', '--', 'node', 'build.mjs'];
  const env = bareEnvironment({ SLOW: '2000', TMPDIR: temporary });
  const start = () => spawn(process.execPath, args, { cwd: project.folder, env, stdio: 'ignore' });
  const endOf = (child: ReturnType<typeof start>) => new Promise((resolve) => child.once('exit', resolve));
  const started = Date.now();
  await endOf(start());
  const whole = Date.now() - started;
  let left = 0;
  for (let run = 0; run < KILLS; run++) {
    const child = start();
    const ended = endOf(child);
    // The first one is killed with its copy there, however busy the machine is.
    if (run === 0) await vi.waitUntil(() => leftovers().length > 0, { timeout: 60_000, interval: 10 });
    else await setTimeout(whole * (0.2 + (0.8 * run) / KILLS));
    child.kill('SIGKILL');
    await ended;
    expect(stateOf(project)).toEqual(before);
    left += leftovers().length;
  }
  expect(left).toBeGreaterThan(0);
  reportOf(project, 'node', 'build.mjs');
  expect(leftovers()).toEqual([]);
  expect(stateOf(project)).toEqual(before);
}, 1_200_000);
