// Packs Adder, installs the package in a new project, and runs it there on other versions of Node.js: `npm run smoke`.
import assert from 'node:assert/strict';
import { execFileSync, spawnSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const versions = process.argv.length > 2 ? process.argv.slice(2) : ['22', '24'];
/** npm distributes the binaries of Node.js as packages. */
const binaries = `node-${process.platform === 'win32' ? 'win' : process.platform}-${process.arch}`;
const folder = mkdtempSync(join(tmpdir(), 'adder-smoke-'));

const npm = (...args) =>
  execFileSync('npm', [...args, '--no-audit', '--no-fund'], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'] });

try {
  const [{ filename }] = JSON.parse(npm('pack', '--json', '--ignore-scripts', '--pack-destination', folder));
  writeFileSync(join(folder, 'package.json'), '{ "private": true }');
  npm(
    'install',
    '--prefix',
    folder,
    join(folder, filename),
    ...versions.map((version) => `node-${version}@npm:${binaries}@${version}`),
  );
  for (const version of versions) check(version);
} finally {
  rmSync(folder, { recursive: true, force: true });
}

/** Runs the installed program, its library and a story of the demo. */
function check(version) {
  const node = join(
    folder,
    'node_modules',
    `node-${version}`,
    'bin',
    process.platform === 'win32' ? 'node.exe' : 'node',
  );
  const program = join(folder, 'node_modules/adder/dist/adder.cjs');
  // A required secret without a value would make the answer incomplete.
  const cache = join(folder, `cache-${version}`);
  const env = { ...process.env, SOURCE_MAP_UPLOAD_TOKEN: 'made-up-upload-token-0007', XDG_CACHE_HOME: cache };
  const run = (...args) => spawnSync(node, args, { cwd: folder, encoding: 'utf8', env });
  assert.match(run('--version').stdout, new RegExp(`^v${version}\\.`));
  assert.match(run(program, '--version').stdout, /^\d+\.\d+\.\d+\n$/);
  const contract = ['--packages', '--contract', `demo-${version}/adder.yaml`];
  const demo = run(program, 'demo', `demo-${version}`, '--story', 'lint');
  assert.equal(demo.status, 0, demo.stderr);
  assert.match(demo.stdout, /code\/server-read/);
  const inspected = run(program, 'inspect', 'node_modules/adder/CHANGELOG.md', '--stage', 'production', ...contract);
  assert.equal(inspected.status, 0, inspected.stdout + inspected.stderr);
  const library = run(
    '--input-type=module',
    '-e',
    "import { parseEnvFile } from 'adder/core'; console.log(typeof parseEnvFile)",
  );
  assert.match(library.stdout, /function|object/, library.stderr);
  checkCache(join(cache, 'adder'), () => run(program, 'values', 'production', ...contract));
  console.log(`Node.js ${version}: the packed program and its library work`);
}

/** The compiled code is in a directory that only its owner may open, and in none that others may. */
function checkCache(directory, call) {
  if (process.platform !== 'linux') return;
  assert.equal(statSync(directory).mode & 0o777, 0o700);
  assert.notEqual(readdirSync(directory).length, 0);
  rmSync(directory, { recursive: true });
  call();
  chmodSync(directory, 0o777);
  for (const name of readdirSync(directory)) rmSync(join(directory, name), { recursive: true });
  call();
  assert.deepEqual(readdirSync(directory), []);
}
