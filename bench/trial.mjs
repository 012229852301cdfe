// Time of a trial, against the build alone, and cp and rm of the project. Exits 1 when the goal is missed.
//   node bench/trial.mjs                   a made-up project of 6,000 modules
//   node bench/trial.mjs DIR OUTPUT WORD…  a project with a contract, the directory that its build writes, and its command
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { layOutModules } from './modules.mjs';
import { median, table } from './report.mjs';

const ROUNDS = 3;
const GOAL = 1.3;
const MODULES = 6000;

const root = join(import.meta.dirname, '..');
const program = join(root, 'dist/adder.cjs');
const [given, output = 'dist', ...words] = process.argv.slice(2);
const folder = given === undefined ? layOut() : resolve(given);
const command = words.length > 0 ? words : ['node', 'node_modules/vite/bin/vite.js', 'build', '--logLevel', 'silent'];
const copies = mkdtempSync(join(tmpdir(), 'adder-bench-copy-'));

/** @returns milliseconds */
function timed(name, args, cwd = folder) {
  const start = process.hrtime.bigint();
  const { status, stderr } = spawnSync(name, args, { cwd, stdio: ['ignore', 'ignore', 'pipe'] });
  const took = Number(process.hrtime.bigint() - start) / 1e6;
  if (status !== 0) throw new Error(String(stderr));
  return took;
}

const times = { build: [], copy: [], trial: [] };
for (let round = 0; round < ROUNDS; round++) {
  rmSync(join(folder, output), { recursive: true, force: true });
  times.build.push(timed(command[0], command.slice(1)));
  rmSync(join(folder, output), { recursive: true, force: true });
  const copy = join(copies, String(round));
  times.copy.push(timed('cp', ['-a', folder, copy], root) + timed('rm', ['-r', copy], root));
  times.trial.push(
    timed(process.execPath, [program, 'trial', 'production', '--again', '--fail-on', 'never', '--', ...command]),
  );
}
rmSync(copies, { recursive: true });
if (given === undefined) rmSync(folder, { recursive: true });

const ratio = median(times.trial.map((time, round) => (time - times.copy[round]) / times.build[round]));
const middle = (all) => `${(median(all) / 1000).toFixed(2)} s`;
console.log(
  table(
    ['build', 'copy', 'trial', 'trial without the copy, to the build', 'goal'],
    [[middle(times.build), middle(times.copy), middle(times.trial), ratio.toFixed(2), `at most ${GOAL}`]],
  ),
);
if (ratio > GOAL) process.exitCode = 1;

/** @returns the directory of a made-up project */
function layOut() {
  const made = mkdtempSync(join(tmpdir(), 'adder-bench-'));
  layOutModules(made, { count: MODULES, every: 100 });
  writeFileSync(join(made, 'index.html'), '<script type="module" src="/src/0.js"></script>');
  return made;
}
