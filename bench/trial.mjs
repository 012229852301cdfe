// Time of a trial, against the build alone, and cp and rm of the project. Exits 1 when the goal is missed.
//   node bench/trial.mjs                   a made-up project of 6,000 modules
//   node bench/trial.mjs DIR OUTPUT WORD…  a project with a contract, the directory that its build writes, and its command
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
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

/** Modules of a usual size, one in a hundred of which reads a value. */
function layOut() {
  const made = mkdtempSync(join(tmpdir(), 'adder-bench-'));
  mkdirSync(join(made, 'src'));
  for (let i = 0; i < MODULES; i++) {
    const next = [2 * i + 1, 2 * i + 2].filter((n) => n < MODULES);
    const read = i % 100 === 0 ? 'import.meta.env.VITE_FERRY_API_URL' : `'pier ${i}'`;
    const lines = Array.from(
      { length: 40 },
      (_, n) => `  all.push({ berth: ${n}, name: 'ferry ' + ${n} * all.length, list: [${n}, ${i}] });\n`,
    );
    writeFileSync(
      join(made, 'src', `${i}.js`),
      `${next.map((n) => `import { part${n} } from './${n}.js';\n`).join('')}export function part${i}(all = []) {\n${lines.join('')}  return [${read}, ${next.map((n) => `part${n}(all)`).join(', ')}];\n}\n${i === 0 ? 'console.log(part0());\n' : ''}`,
    );
  }
  writeFileSync(join(made, 'index.html'), '<script type="module" src="/src/0.js"></script>');
  writeFileSync(join(made, '.env.production'), 'VITE_FERRY_API_URL=https://api.saltmarsh.example\n');
  writeFileSync(join(made, 'package.json'), '{ "type": "module" }');
  writeFileSync(
    join(made, 'adder.yaml'),
    'adder: 1\nstages: { production: { layers: [.env.production] } }\nbundles: { web: { toolchain: vite, code: [src], output: [dist] } }\nvariables: { VITE_FERRY_API_URL: public }\n',
  );
  symlinkSync(join(root, 'node_modules'), join(made, 'node_modules'));
  return made;
}
