// How long Adder takes to start, as a ratio to `node -e 0` in the same run. Exits 1 when a goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, table } from './report.mjs';

const ROUNDS = 25;

const program = join(import.meta.dirname, '../dist/adder.cjs');
const folder = mkdtempSync(join(tmpdir(), 'adder-bench-'));
writeFileSync(
  join(folder, 'adder.yaml'),
  'adder: 1\nstages: { production: { layers: [.env, process] } }\nvariables: { FERRY_API_URL: { reach: public, form: url } }\n',
);
writeFileSync(join(folder, '.env'), 'FERRY_API_URL=https://api.saltmarsh.example\n');

const calls = {
  'node -e 0': ['-e', '0'],
  'adder --version': [program, '--version'],
  'adder --help': [program, '--help'],
  'adder values --help': [program, 'values', '--help'],
  'adder values production': [program, 'values', 'production'],
};
/** Ratios to `node -e 0`. */
const goalOf = { 'adder --version': 2, 'adder --help': 3, 'adder values --help': 2.5, 'adder values production': 2.5 };
/** The first call of a command notes its modules, and the second keeps their compiled code. */
const LEARNING = 2;

// A variable that makes every start of Node read a file of certificates would hide the difference.
const { NODE_EXTRA_CA_CERTS: _, ...env } = process.env;

const times = Object.fromEntries(Object.keys(calls).map((name) => [name, []]));
for (let round = -LEARNING; round < ROUNDS; round++) {
  for (const [name, args] of Object.entries(calls)) {
    const start = process.hrtime.bigint();
    const { status } = spawnSync(process.execPath, args, { cwd: folder, env });
    if (status !== 0) throw new Error(`${name} exited with ${status}`);
    if (round >= 0) times[name].push(Number(process.hrtime.bigint() - start) / 1e6);
  }
}

const base = median(times['node -e 0']);
const ratioOf = (name) => median(times[name]) / base;
const rows = Object.entries(times).map(([name, all]) => [
  name,
  `${median(all).toFixed(0)} ms`,
  ratioOf(name).toFixed(2),
  goalOf[name] === undefined ? '' : `at most ${goalOf[name]}`,
]);
console.log(table(['call', 'median', 'ratio to node -e 0', 'goal'], rows));

const missed = Object.entries(goalOf).filter(([name, goal]) => ratioOf(name) > goal);
if (missed.length > 0) {
  console.error(`missed its goal: ${missed.map(([name]) => name).join(', ')}`);
  process.exitCode = 1;
}
