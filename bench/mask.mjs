// Cost of masking for each megabyte of a build's output, beside the same output through a pipe. Exits 1 when a goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, table } from './report.mjs';

const ROUNDS = 7;
const [SMALL, LARGE] = [1, 201];
/** Times a program that only hands the same output on. */
const GOAL = 5;

const program = join(import.meta.dirname, '../dist/adder.cjs');
const folder = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const names = Array.from({ length: 40 }, (_, index) => `QUAY_KEY_${index}`);
const variables = names.map((name) => `  ${name}: { reach: server }\n`).join('');
writeFileSync(
  join(folder, 'adder.yaml'),
  `adder: 1\nstages: { production: { layers: [.env] } }\nvariables:\n${variables}`,
);
writeFileSync(join(folder, '.env'), names.map((name, index) => `${name}=made-up-key-${index}-of-the-bench\n`).join(''));
// A log as bundlers print it, in lines with colours, and words that values begin with.
const line = (n) =>
  `\x1b[2mdist/assets/\x1b[22m\x1b[36mchunk-${n.toString(36)}.js\x1b[39m  ${n % 900}.21 kB │ gzip: made-up ${n}\n`;
const block = Array.from({ length: 16_000 }, (_, n) => line(n * 7919)).join('');
for (const megabytes of [SMALL, LARGE])
  writeFileSync(
    join(folder, `${megabytes}.log`),
    block.repeat(Math.ceil((megabytes * 2 ** 20) / block.length)).slice(0, megabytes * 2 ** 20),
  );

writeFileSync(
  join(folder, 'pipe.cjs'),
  "require('node:child_process').spawn('cat', [process.argv[2]], { stdio: ['ignore', 'pipe', 'inherit'] }).stdout.pipe(process.stdout);",
);

const quoted = (text) => `'${text}'`;
const calls = {
  'a pipe in Node': (megabytes) => `${quoted(process.execPath)} pipe.cjs ${megabytes}.log > out`,
  'adder with': (megabytes) =>
    `${quoted(process.execPath)} ${quoted(program)} with production -- cat ${megabytes}.log > out 2>err`,
};

const costs = Object.fromEntries(Object.keys(calls).map((name) => [name, []]));
for (let round = 0; round < ROUNDS; round++) {
  for (const [name, call] of Object.entries(calls)) {
    const [small, large] = [SMALL, LARGE].map((megabytes) => {
      const start = process.hrtime.bigint();
      const { status } = spawnSync('sh', ['-c', call(megabytes)], { cwd: folder });
      if (status !== 0) throw new Error(`${name} exited with ${status}`);
      return Number(process.hrtime.bigint() - start) / 1e6;
    });
    costs[name].push((large - small) / (LARGE - SMALL));
  }
}
rmSync(folder, { recursive: true });

const base = median(costs['a pipe in Node']);
const rows = Object.entries(costs).map(([name, all]) => [
  name,
  `${median(all).toFixed(2)} ms`,
  (median(all) / base).toFixed(1),
]);
console.log(table([`call, ${names.length} secret values`, 'median for a megabyte', 'ratio to the pipe'], rows));
if (median(costs['adder with']) / base > GOAL) {
  console.error(`missed the goal of ${GOAL} times the pipe`);
  process.exitCode = 1;
}
