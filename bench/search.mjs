// Finding values in build output, against the search tools that a person would otherwise reach for: rg and grep, with the same
// needles, in the same run, whole processes. The corpus is what npm packages ship, in a cache folder; nothing of it is kept in
// the repository. Exits 1 when a goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'esbuild';
import { needlesFor } from '../dist/core.js';
import { copyUntil, largeCorpus } from './corpus.mjs';
import { median, table } from './report.mjs';

const ROUNDS = 7;
const work = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const large = largeCorpus(400 * 2 ** 20);
const small = join(work, 'small');
copyUntil(large, small, 9 * 2 ** 20);
const program = join(import.meta.dirname, 'search-run.cjs');
const matcher = join(work, 'matcher.cjs');
await build({
  entryPoints: [join(import.meta.dirname, '../src/core/search/matcher-for.ts')],
  bundle: true,
  minify: true,
  platform: 'node',
  outfile: matcher,
});

// An extra-certificates variable makes every start of Node slower, and belongs to no program.
const env = { PATH: process.env.PATH, HOME: process.env.HOME, LC_ALL: 'C' };

const has = (name) => spawnSync(name, ['--version']).status === 0;
for (const name of ['rg', 'grep'])
  if (!has(name)) console.log(`${name} is not on this machine: skipped (apt-get install ripgrep)`);

let missed = false;
const rows = [];
/** @param {string} what @param {number} ratio @param {string} goal @param {boolean} isMet @param {string} spread */
function row(what, ratio, goal, isMet, spread = '') {
  rows.push([what, ratio.toFixed(2), spread, goal, isMet ? 'met' : 'missed']);
  if (!isMet) missed = true;
}

plant();
const ours = (file, folder) => [process.execPath, program, matcher, file, folder];
const rg = (threads, file, folder) => ['rg', '-aFc', '--no-ignore', '--hidden', `-j${threads}`, '-f', file, folder];
const grep = (file, folder) => ['grep', '-raFc', '-f', file, folder];

const files = Object.fromEntries([32, 300, 2000].map((count) => [count, needleFile(count)]));
agree(files[300], small);
for (const [count, goal] of [
  [32, 1],
  [300, 4],
]) {
  if (!has('rg')) break;
  const [mine, theirs] = times([ours(files[count], large), rg(1, files[count], large)]);
  row(
    `${count} needles, 400 MB, one thread, against rg -aF -j1`,
    median(theirs) / median(mine),
    `at least ${goal}`,
    median(theirs) / median(mine) >= goal,
    spreadOf(mine),
  );
}
{
  const [few, many] = times([ours(files[300], large), ours(files[2000], large)]);
  row(
    '2000 needles against 300, time',
    median(many) / median(few),
    'at most 1.5',
    median(many) / median(few) <= 1.5,
    spreadOf(many),
  );
}
if (has('rg')) {
  const [mine, theirs, node] = times([
    ours(files[300], small),
    rg(1, files[300], small),
    [process.execPath, '-e', '0'],
  ]);
  row(
    '9 MB, 300 needles, against rg',
    median(theirs) / median(mine),
    'not slower',
    median(theirs) >= median(mine),
    spreadOf(mine),
  );
  row(
    '9 MB, 300 needles, against node -e 0, time',
    median(mine) / median(node),
    'under 2',
    median(mine) / median(node) < 2,
  );
}
if (has('grep')) {
  const [mine, theirs] = times([ours(files[300], small), grep(files[300], small)]);
  row('9 MB, 300 needles, against grep -aF', median(theirs) / median(mine), '', true, spreadOf(mine));
}
rmSync(work, { recursive: true });
console.log(table(['what', 'ratio', 'spread of ours', 'goal', ''], rows));
if (missed) process.exitCode = 1;

/** Needles as they stand on lines of a file: those of as many values as it takes, of a usual length. */
function needleFile(count) {
  const texts = new Set();
  for (let index = 0; texts.size < count; index++) {
    const value = `${['key', 'made-up', 'sk', 'token'][index % 4]}_${(index * 7919 + 104729).toString(36)}-${(index * 15485863).toString(36)}/Q${index}`;
    for (const { bytes } of needlesFor([{ value, owner: 0 }]))
      if (bytes.length >= 10 && !/[^ -~]/.test(bytes.toString('latin1')) && texts.size < count)
        texts.add(bytes.toString());
  }
  const path = join(work, `needles-${count}`);
  writeFileSync(path, `${[...texts].join('\n')}\n`);
  return path;
}

/** Each command's times in rounds, one after the other in each, after one that warms the caches. */
function times(commands) {
  const all = commands.map(() => []);
  for (let round = -1; round < ROUNDS; round++)
    commands.forEach(([name, ...args], index) => {
      const start = process.hrtime.bigint();
      const { status, stderr } = spawnSync(name, args, { env, stdio: ['ignore', 'ignore', 'pipe'] });
      if (status > 1) throw new Error(`${name}: ${stderr}`);
      if (round >= 0) all[index].push(Number(process.hrtime.bigint() - start) / 1e6);
    });
  return all;
}

function spreadOf(all) {
  return `${Math.min(...all).toFixed(0)} to ${Math.max(...all).toFixed(0)} ms`;
}

/** Each program says in how many lines of each file it found something; the counts must be the same. */
function agree(needles, folder) {
  const counts = (name, args) => {
    const { stdout } = spawnSync(name, args, { env, encoding: 'utf8', maxBuffer: 2 ** 28 });
    return stdout
      .split('\n')
      .filter((line) => line !== '' && !line.endsWith(':0'))
      .sort()
      .join('\n');
  };
  const [mine, ...others] = [
    counts(process.execPath, [program, matcher, needles, folder, 'lines']),
    ...(has('rg') ? [counts('rg', rg(1, needles, folder).slice(1))] : []),
    ...(has('grep') ? [counts('grep', grep(needles, folder).slice(1))] : []),
  ];
  if (mine === '') throw new Error('nothing of what was planted was found');
  for (const other of others) if (other !== mine) throw new Error('the programs do not find the same');
}

/** Some needles stand in some files, each on a line of its own. */
function plant() {
  const texts = needleFile(300);
  const lines = spawnSync('cat', [texts], { encoding: 'utf8' }).stdout.trim().split('\n');
  const names = readdirSync(small).slice(0, 20);
  names.forEach((name, index) => {
    writeFileSync(join(small, name), `\n${lines[index * 7]}\nx ${lines[index * 7]} ${lines[index * 3]}\n`, {
      flag: 'a',
    });
  });
}
