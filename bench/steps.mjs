// Time of each rule on twice as much of what it looks for, as a ratio to the time on once as much. Exits 1 when a goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { table } from './report.mjs';

const GOAL = 2.5;
/** Shorter times are those of the start. */
const LEAST_MS = 4;

const work = mkdtempSync(join(import.meta.dirname, '../node_modules/.cache/adder-bench-'));
const outfile = join(work, 'steps.mjs');
await build({
  entryPoints: [join(import.meta.dirname, 'steps-entry.ts')],
  bundle: true,
  platform: 'node',
  format: 'esm',
  mainFields: ['module', 'main'],
  external: ['oxc-parser'],
  banner: {
    js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
  },
  logLevel: 'error',
  outfile,
});
const { stdout, stderr } = spawnSync(process.execPath, [outfile], { encoding: 'utf8', maxBuffer: 2 ** 26 });
rmSync(work, { recursive: true });
if (stdout === '') throw new Error(stderr);
const measured = JSON.parse(stdout).filter(({ twice }) => twice >= LEAST_MS);
const rows = measured
  .map(({ name, once, twice }) => ({ name, twice, ratio: twice / once }))
  .sort((a, b) => b.ratio - a.ratio);
console.log(
  table(
    ['rule on a text that repeats', 'twice', 'ratio to once'],
    rows.map(({ name, twice, ratio }) => [name, `${twice.toFixed(1)} ms`, ratio.toFixed(2)]),
  ),
);
const missed = rows.filter(({ ratio }) => ratio > GOAL);
for (const { name } of missed) console.error(`missed the goal of ${GOAL}: ${name}`);
if (missed.length > 0) process.exitCode = 1;
