// Pictures of the main commands on the demo project, each in a terminal window under Xvfb. Needs the Debian packages xvfb,
// xterm, imagemagick and fonts-dejavu-core.
import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { load } from './load.mjs';

const root = join(import.meta.dirname, '..');
process.chdir(root);
const { stories } = await load('src/demo/story.ts');
const { layOut, lendPackages } = await load('src/demo/layout.ts');

/** Which steps of the story are shown, by their number in it. */
const shots = new Map([
  [0, 'values'],
  [1, 'with-refused'],
  [3, 'with-build'],
  [4, 'inspect-leak'],
  [7, 'inspect-clean'],
  [9, 'inspect-stale'],
]);

/** Commands beside the story, on the project as it is at its end. */
const others = {
  'values-all': 'adder values --all',
  why: 'adder why FERRY_API_URL',
  compare: 'adder compare staging production',
};

const DISPLAY = ':97';
const work = mkdtempSync(join(tmpdir(), 'adder-shots-'));
const folder = join(work, 'ferries');
const bin = join(work, 'bin');
mkdirSync(bin);
writeFileSync(join(bin, 'adder'), `#!/bin/sh\nexec ${process.execPath} ${join(root, 'dist/adder.cjs')} "$@"\n`);
chmodSync(join(bin, 'adder'), 0o755);
layOut('src/demo/ferries', folder);
writeFileSync(join(work, '.npmrc'), 'update-notifier=false\n');
lendPackages(folder, join(root, 'node_modules'));

// Nothing of this machine's settings is to be seen.
const env = { PATH: `${bin}:${process.env.PATH}`, HOME: work, DISPLAY, LANG: 'C.UTF-8' };
const server = spawn('Xvfb', [DISPLAY, '-screen', '0', '1280x800x24'], { stdio: 'ignore' });
await sleep(1500);
mkdirSync('docs/screenshots', { recursive: true });
try {
  for (const [index, step] of stories.build.steps.entries()) {
    if (step.change) step.change(folder);
    else await run(step, shots.get(index));
  }
  for (const [name, command] of Object.entries(others)) await run({ command, expects: 0 }, name);
} finally {
  server.kill();
}

/** Runs a step in a terminal, so that it sees one, and keeps the picture where it has a name. */
async function run({ command, expects }, name) {
  const done = join(work, 'done');
  const shown = `printf '\\033[1m$ %s\\033[0m\\n' '${command}'; ${command}; echo $? > ${done}; sleep 60`;
  const look = [
    '-fa',
    'DejaVu Sans Mono',
    '-fs',
    '14',
    '-geometry',
    '104x33+0+0',
    '-bg',
    '#16181d',
    '-fg',
    '#d8dee6',
    '-b',
    '18',
  ];
  const terminal = spawn('xterm', [...look, '-e', 'sh', '-c', shown], { cwd: folder, env, stdio: 'ignore' });
  const code = await exitCode(done);
  if (code !== expects) throw new Error(`${command} gave back ${code}, not ${expects}`);
  await sleep(700);
  if (name)
    spawnSync('import', ['-window', 'root', '+dither', '-colors', '128', '-strip', `docs/screenshots/${name}.png`], {
      env,
      stdio: 'inherit',
    });
  terminal.kill();
  spawnSync('rm', ['-f', done]);
}

async function exitCode(path) {
  for (let waited = 0; waited < 60_000; waited += 100) {
    const { stdout, status } = spawnSync('cat', [path], { encoding: 'utf8' });
    if (status === 0 && stdout !== '') return Number(stdout);
    await sleep(100);
  }
  throw new Error('the command did not end');
}
