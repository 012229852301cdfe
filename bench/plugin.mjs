// Cost of the plugin: the same build of 500 modules with and without it, in one run. Exits 1 when a goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { layOutModules } from './modules.mjs';
import { median, table } from './report.mjs';

const ROUNDS = 16;
const MODULES = 500;
/** Modules that read a value, one in so many, and the most that the plugin may cost then. */
const CASES = [
  { every: 5, goal: 1.1 },
  { every: 50, goal: 1.03 },
];

const root = join(import.meta.dirname, '..');
const rows = CASES.map(measured);
console.log(
  table(
    [`${MODULES} modules with Vite`, 'without', 'with', 'ratio', 'goal'],
    rows.map(({ row }) => row),
  ),
);
if (rows.some(({ isMissed }) => isMissed)) process.exitCode = 1;

function measured({ every, goal }) {
  const folder = mkdtempSync(join(tmpdir(), 'adder-bench-'));
  layOutModules(folder, { count: MODULES, every });
  const script = (plugins) => `import { build } from 'vite';
import adder from ${JSON.stringify(pathToFileURL(join(root, 'dist/plugin/vite.js')).href)};
const start = process.hrtime.bigint();
await build({ logLevel: 'silent', plugins: [${plugins}], build: { minify: false, write: true, rollupOptions: { input: 'src/0.js' } } });
console.log(Number(process.hrtime.bigint() - start) / 1e6);
void adder;`;
  const scripts = { plain: script(''), plugged: script("adder({ stage: 'production' })") };
  const times = { plain: [], plugged: [] };
  for (let round = 0; round < ROUNDS; round++) {
    // The order changes from round to round, as the second of two builds finds the files in memory.
    const order = Object.entries(scripts);
    for (const [name, source] of round % 2 === 0 ? order : order.reverse()) {
      const { status, stdout, stderr } = spawnSync(process.execPath, ['--input-type=module', '-e', source], {
        cwd: folder,
        env: { ...process.env, VITE_FERRY_API_URL: 'https://api.saltmarsh.example' },
        encoding: 'utf8',
      });
      if (status !== 0) throw new Error(stderr);
      times[name].push(Number(stdout));
    }
  }
  rmSync(folder, { recursive: true });
  // Ratios within a round: what other programs of the machine take changes slowly, and takes from both.
  const ratio = median(times.plugged.map((time, round) => time / times.plain[round]));
  const middle = (all) => `${median(all).toFixed(0)} ms`;
  const row = [
    `${MODULES / every} of them read`,
    middle(times.plain),
    middle(times.plugged),
    ratio.toFixed(3),
    String(goal),
  ];
  return { row, isMissed: ratio >= goal };
}
