// `adder values --all` as a whole for a large project: 500 variables, 5 stages of 4 layers each, references among the values.
// Exits 1 when the goal is missed.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Goals, times } from './report.mjs';

const VARIABLES = 500;
const STAGES = 5;
const LAYERS = 4;

const program = join(import.meta.dirname, '../dist/adder.cjs');
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

const env = { PATH: process.env.PATH, HOME: process.env.HOME };
const goals = new Goals();
const nothing = [process.execPath, '-e', '0'];
const all = [process.execPath, program, 'values', '--all'];
// Reads the contract, and then no stage has this name.
const contractAlone = [process.execPath, program, 'values', 'none'];
const [mine, reading, bare] = times([all, contractAlone, nothing], 11, env, folder, 2);
goals.atMost('values --all, 500 variables, 5 stages, 20 layers, time against node -e 0', mine, bare, 3);
goals.atMost('a call that reads the contract and nothing else, time against node -e 0', reading, bare);
rmSync(folder, { recursive: true });
goals.tell();

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
