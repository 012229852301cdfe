// `adder gate` against the slowest of its parts alone: what the parts share should run once. 2,000 modules, and 100 MB of output. Exits 1
// when the goal is missed.
import { cpSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { copyUntil, largeCorpus, packageFiles, packages } from './corpus.mjs';
import { Goals, median, times } from './report.mjs';

const MB = 2 ** 20;
const folder = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const program = join(import.meta.dirname, '../dist/adder.cjs');
const env = { PATH: process.env.PATH, HOME: folder, LC_ALL: 'C' };
mkdirSync(join(folder, 'src'));
const isModule = (path) => /\.m?js$/.test(path) && !/\.min\./.test(path) && statSync(path).size < 2 * MB;
const modules = packageFiles('packages', packages).filter(isModule);
for (const [index, path] of modules.slice(0, 2000).entries()) cpSync(path, join(folder, 'src', `${index}.js`));
copyUntil(largeCorpus(400 * MB), join(folder, 'dist'), 100 * MB);
writeFileSync(
  join(folder, '.env.production'),
  'VITE_FERRY_API_URL=https://api.saltmarsh.example\nFARE_SIGNING_KEY=made-up-key-of-the-bench-0001\n',
);
writeFileSync(
  join(folder, 'adder.yaml'),
  `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { web: { code: [src], entry: [src/0.js], output: [dist] } }
variables: { VITE_FERRY_API_URL: public, FARE_SIGNING_KEY: server }
`,
);
const call = (...args) => [process.execPath, program, ...args, '--quiet', '--fail-on', 'never'];
const [gate, values, lint, inspect] = times(
  [
    [...call('gate', 'production'), '--allow-incomplete'],
    call('values', 'production'),
    call('lint'),
    [...call('inspect', '--stage', 'production'), '--allow-incomplete'],
  ],
  5,
  env,
  folder,
);
rmSync(folder, { recursive: true });
const goals = new Goals();
const slowest = [values, lint, inspect].sort((a, b) => median(b) - median(a))[0];
goals.atMost(
  'adder gate, 2,000 modules and 100 MB of output, against its slowest part alone, time',
  gate,
  slowest,
  1.15,
);
goals.tell();
