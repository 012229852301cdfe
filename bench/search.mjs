// Finding values in build output, against the search tools that a person would otherwise reach for: rg and grep, with the same
// needles, in the same run, whole processes. The corpus is what npm packages ship, in a cache directory; nothing of it is kept in
// the repository. Exits 1 when a goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { needlesFor } from '../dist/core.js';
import { copyUntil, largeCorpus } from './corpus.mjs';
import { Goals, times } from './report.mjs';
import { builtSearch } from './search-build.mjs';

const ROUNDS = 7;
const work = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const large = largeCorpus(400 * 2 ** 20);
const small = join(work, 'small');
copyUntil(large, small, 9 * 2 ** 20);
const program = join(import.meta.dirname, 'search-run.cjs');
await builtSearch(work);

// An extra-certificates variable makes every start of Node slower, and belongs to no program.
const env = { PATH: process.env.PATH, HOME: process.env.HOME, LC_ALL: 'C' };

const has = (name) => spawnSync(name, ['--version']).status === 0;
for (const name of ['rg', 'grep'])
  if (!has(name)) console.log(`${name} is not on this machine: skipped (apt-get install ripgrep)`);

const goals = new Goals();
plant();
const ours = (threads, file, folder) => [process.execPath, program, work, `${file}.base64`, folder, `${threads}`];
const rg = (threads, file, folder) => ['rg', '-aFc', '--no-ignore', '--hidden', `-j${threads}`, '-f', file, folder];
const grep = (file, folder) => ['grep', '-raFc', '-f', file, folder];

const files = Object.fromEntries([32, 300, 2000].map((count) => [count, needleFile(count)]));
agree(files[300], small);
if (has('rg')) {
  for (const [count, threads, goal] of [
    [32, 1, 1],
    [300, 1, 5],
    [300, 2, 3],
    [32, 2, undefined],
    [2000, 1, undefined],
  ]) {
    const [mine, theirs] = times([ours(threads, files[count], large), rg(threads, files[count], large)], ROUNDS, env);
    goals.atLeast(`${count} needles, 400 MB, speed against rg -aF -j${threads}`, theirs, mine, goal);
  }
}
if (has('grep')) {
  const [mine, theirs] = times([ours(1, files[300], large), grep(files[300], large)], 3, env);
  goals.atLeast('300 needles, 400 MB, speed against grep -aF', theirs, mine);
}
{
  const [few, many] = times([ours(1, files[300], large), ours(1, files[2000], large)], ROUNDS, env);
  goals.atMost('2000 needles against 300, 400 MB, time', many, few, 1.5);
}
if (has('rg')) {
  const [mine, theirs, node] = times(
    [ours(1, files[300], small), rg(1, files[300], small), [process.execPath, '-e', '0']],
    ROUNDS,
    env,
  );
  goals.atLeast('300 needles, 9 MB, speed against rg', theirs, mine, 1);
  goals.atMost('300 needles, 9 MB, time against node -e 0', mine, node, 2);
}
rmSync(work, { recursive: true });
goals.tell();

/** Needles, one per line, of as many values of usual length as needed. */
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
  writeFileSync(`${path}.base64`, [...texts].map((text) => btoa(text)).join('\n'));
  return path;
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
    ...[1, 2].map((threads) => counts(process.execPath, [...ours(threads, needles, folder).slice(1), 'lines'])),
    ...(has('rg') ? [counts('rg', rg(1, needles, folder).slice(1))] : []),
    ...(has('grep') ? [counts('grep', grep(needles, folder).slice(1))] : []),
  ];
  if (mine === '') throw new Error('nothing of what was planted was found');
  for (const other of others) if (other !== mine) throw new Error('the programs do not find the same');
}

/** Puts some needles into some files, each on its own line. */
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
