// How long Adder takes to start, as a ratio to `node -e 0` in the same run, on this Node.js and on those that the environment variable
// ADDER_NODES names (paths, with spaces between). Exits 1 when a goal is missed.
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
  adder: [program],
};
/** The highest ratio to `node -e 0`. Only Node.js 22 and newer keep compiled code. */
const goalsOf = (version) => {
  const most = version < 22 ? 4 : 2.5;
  return {
    'adder --version': 1.5,
    'adder --help': most,
    'adder values --help': most,
    'adder values production': most,
    adder: 3,
  };
};
/** Calls that only warm the caches. */
const WARMING = 3;

// A variable that makes every start of Node read a file of certificates would hide the difference.
const { NODE_EXTRA_CA_CERTS: _, ...env } = process.env;

const nodes = [process.execPath, ...(process.env.ADDER_NODES ?? '').split(' ').filter(Boolean)];
const missed = nodes.flatMap(measure);
if (missed.length > 0) {
  console.error(`missed its goal: ${missed.join(', ')}`);
  process.exitCode = 1;
}

/** Prints the ratios on one Node.js. @returns the calls that missed their goal */
function measure(node) {
  const version = spawnSync(node, ['--version'], { encoding: 'utf8', env }).stdout.trim();
  const goals = goalsOf(Number.parseInt(version.slice(1), 10));
  const times = Object.fromEntries(Object.keys(calls).map((name) => [name, []]));
  for (let round = -WARMING; round < ROUNDS; round++) {
    for (const [name, args] of Object.entries(calls)) {
      const start = process.hrtime.bigint();
      const { status } = spawnSync(node, args, { cwd: folder, env });
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
    goals[name] === undefined ? '' : `at most ${goals[name]}`,
  ]);
  console.log(`Node.js ${version}\n\n${table(['call', 'median', 'ratio to node -e 0', 'goal'], rows)}\n`);
  return Object.entries(goals).flatMap(([name, goal]) => (ratioOf(name) > goal ? [`${name} on ${version}`] : []));
}
