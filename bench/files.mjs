// `adder inspect` as a whole on many small files, against a general search tool, and on one tiny file, against `node -e 0`. Exits 1
// when a goal is missed.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Goals, times } from './report.mjs';

const program = join(import.meta.dirname, '../dist/adder.cjs');
const work = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const env = { PATH: process.env.PATH, HOME: process.env.HOME, LC_ALL: 'C' };
const node = process.execPath;
const goals = new Goals();
const inspect = (...more) => [node, program, 'inspect', '--stage', 'production', ...more];
const made = (index, encoding) => createHash('sha256').update(`made up ${index}`).digest(encoding);

{
  const folder = project('many', 40, (index) => made(index, 'base64url'));
  smallFiles(join(folder, 'dist'), 12_000, 35_000);
  const forms = join(work, 'forms');
  writeFileSync(
    forms,
    Array.from({ length: 40 }, (_, index) => formsOf(made(index, 'base64url')).join('\n')).join('\n'),
  );
  const search = ['rg', '-aF', '-j1', '--no-ignore', '--hidden', '-f', forms, 'dist'];
  const hasSearch = spawnSync('rg', ['--version']).status === 0;
  if (!hasSearch) console.log('rg is not installed: the comparison with it is skipped');
  const read = [node, join(import.meta.dirname, 'read-run.cjs'), 'dist'];
  const [alone, usual, reading, theirs] = times(
    [inspect('--threads', '1'), inspect(), read, hasSearch ? search : [node, '-e', '0']],
    7,
    env,
    folder,
  );
  const what = '12,000 files of 35 KB, 40 secrets, speed against rg -aF -j1 with 8 forms';
  if (hasSearch) {
    goals.atLeast(what, theirs, usual, 3);
    goals.atLeast(`${what}, one thread`, theirs, alone);
    goals.atLeast('the same files, only opened, read and closed by Node.js, speed', theirs, reading);
  }
}
const kinds = [
  (index) => `postgres://quay:${made(index, 'hex').slice(0, 20)}@ledger${index}.saltmarsh.test/ledger`,
  (index) => made(index, 'hex'),
  (index) => made(index, 'base64'),
  (index) => `Fähre "${made(index, 'hex').slice(0, 18)}" <${index}>`,
  (index) => `fare_live_${made(index, 'base64url').slice(0, 24)}`,
];
for (const count of [10, 300]) {
  const folder = project(`tiny-${count}`, count, (index) => kinds[index % kinds.length](index));
  mkdirSync(join(folder, 'dist'));
  writeFileSync(join(folder, 'dist/a.js'), 'x\n');
  const [mine, nothing] = times([inspect('dist'), [node, '-e', '0']], 9, env, folder);
  goals.atMost(`one tiny file, ${count} values of five kinds, time against node -e 0`, mine, nothing, 2.5);
}
{
  // The program is loaded and the command line is read, and then there is no contract.
  const folder = join(work, 'empty');
  mkdirSync(folder);
  const [mine, nothing] = times([inspect(), [node, '-e', '0']], 9, env, folder, 2);
  goals.atMost('a call that ends before it reads a contract, time against node -e 0', mine, nothing);
}
rmSync(work, { recursive: true });
goals.tell();

/** A directory with a contract of secrets, and their values. */
function project(name, count, value) {
  const folder = join(work, name);
  mkdirSync(folder);
  const names = Array.from({ length: count }, (_, index) => `FARE_${index}_SECRET`);
  const contract = `adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { web: { code: src, output: dist } }\nvariables:\n`;
  writeFileSync(join(folder, 'adder.yaml'), contract + names.map((one) => `  ${one}: server\n`).join(''));
  writeFileSync(join(folder, '.env'), names.map((one, index) => `${one}='${value(index)}'\n`).join(''));
  return folder;
}

/** Different parts of a real script. */
function smallFiles(folder, count, size) {
  const source = readFileSync(join(import.meta.dirname, '../node_modules/@babel/parser/lib/index.js'), 'utf8');
  for (let index = 0; index < count; index++) {
    const directory = join(folder, `chunk-${Math.floor(index / 100)}`);
    if (index % 100 === 0) mkdirSync(directory, { recursive: true });
    const from = (index * 7919) % (source.length - size);
    writeFileSync(join(directory, `${index}.js`), `${source.slice(from, from + size)}//${index}`);
  }
}

function formsOf(value) {
  const bytes = Buffer.from(value);
  const inBase64 = [0, 1, 2].map((lead) =>
    Buffer.concat([Buffer.alloc(lead), bytes])
      .toString('base64')
      .slice(Math.ceil((lead * 8) / 6), -3),
  );
  const hex = bytes.toString('hex');
  return [value, ...inBase64, hex, hex.toUpperCase(), [...bytes].join(','), [...bytes].join(', ')];
}
