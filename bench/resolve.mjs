// How long resolving takes for a large project: 500 variables, 5 stages of 4 layers each, references among the values. The
// same program without the work is measured beside it, and `node -e 0`. Exits 1 when the goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { median, table } from './report.mjs';

const ROUNDS = 15;
const GOAL_MS = 50;
const VARIABLES = 500;
const STAGES = 5;
const LAYERS = 4;

const core = pathToFileURL(join(import.meta.dirname, '../dist/core.js')).href;
const folder = mkdtempSync(join(tmpdir(), 'adder-bench-'));

const stages = Array.from(
  { length: STAGES },
  (_, stage) => `  s${stage}: { layers: [${layerNames(stage).join(', ')}] }`,
);
const variables = Array.from(
  { length: VARIABLES },
  (_, v) => `  V${v}: ${v % 3 === 0 ? '{ reach: server, min: 4 }' : '{ reach: public, form: url }'}`,
);
writeFileSync(
  join(folder, 'adder.yaml'),
  `adder: 1\nstages:\n${stages.join('\n')}\nvariables:\n${variables.join('\n')}\n`,
);
for (let stage = 0; stage < STAGES; stage++)
  for (const [layer, name] of layerNames(stage).entries()) writeFileSync(join(folder, name), envText(layer));

const load = `import * as core from ${JSON.stringify(core)}; import { readFileSync } from 'node:fs';`;
const work = `
const { contract } = core.parseContract(readFileSync('adder.yaml', 'utf8'), 'adder.yaml');
const start = process.hrtime.bigint();
let set = 0;
for (const stage of contract.stages.values()) {
  const layers = stage.layers.map(({ name }) => core.readEnvFileLayer(name, name, readFileSync(name), () => true));
  for (const { state } of core.resolveStage(contract, stage, layers).values.values()) if (state === 'set') set++;
}
console.log(JSON.stringify({ ms: Number(process.hrtime.bigint() - start) / 1e6, set }));`;

const wholes = { 'node -e 0': '0', 'the core loaded': load, 'the core loaded, all resolved': load + work };
const times = Object.fromEntries(Object.keys(wholes).map((name) => [name, []]));
const resolving = [];
const { NODE_EXTRA_CA_CERTS: _, ...env } = process.env;
for (let round = 0; round < ROUNDS; round++) {
  for (const [name, source] of Object.entries(wholes)) {
    const start = process.hrtime.bigint();
    const { status, stdout, stderr } = spawnSync(process.execPath, ['--input-type=module', '-e', source], {
      cwd: folder,
      env,
      encoding: 'utf8',
    });
    if (status !== 0) throw new Error(stderr);
    times[name].push(Number(process.hrtime.bigint() - start) / 1e6);
    if (!stdout.startsWith('{')) continue;
    const { ms, set } = JSON.parse(stdout);
    if (set !== VARIABLES * STAGES) throw new Error(`${set} values are set, not ${VARIABLES * STAGES}`);
    resolving.push(ms);
  }
}

const base = median(times['node -e 0']);
const rows = Object.entries(times).map(([name, all]) => [
  name,
  `${median(all).toFixed(0)} ms`,
  (median(all) / base).toFixed(2),
]);
console.log(table(['whole process', 'median', 'ratio to node -e 0'], rows));
console.log(
  `\nreading and resolving alone: ${median(resolving).toFixed(0)} ms, ${(median(resolving) / base).toFixed(2)} of node -e 0 (goal: under ${GOAL_MS} ms)`,
);
if (median(resolving) >= GOAL_MS) process.exitCode = 1;

function layerNames(stage) {
  return Array.from({ length: LAYERS }, (_, layer) => `.env.s${stage}l${layer}`);
}

/** The first layer of a stage has every variable, each later one a fifth of them; every tenth value refers to another. */
function envText(layer) {
  const value = (v) =>
    v % 10 === 1 && v % 3 !== 1
      ? `https://host-${layer}.example/\${V${v - 1}:+set}`
      : `https://host-${layer}-${v}.example`;
  const all = Array.from({ length: VARIABLES }, (_, v) => v);
  return all
    .filter((v) => layer === 0 || v % 5 === layer)
    .map((v) => `V${v}=${value(v)}\n`)
    .join('');
}
