// Pictures of the main commands on the demo project, each in a terminal window under Xvfb. Needs the Debian packages xvfb,
// xterm, imagemagick and fonts-dejavu-core.
import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { load } from './load.mjs';

const root = join(import.meta.dirname, '..');
process.chdir(root);
const { stories } = await load('src/demo/story.ts');
const { layOut, lendPackages } = await load('src/demo/layout.ts');

/** Which steps of each story are shown, by their number in it. */
const shots = {
  build: new Map([
    [0, 'values'],
    [3, 'with-build'],
    [4, 'inspect-leak'],
  ]),
  adopt: new Map([[0, 'draft']]),
  lint: new Map(),
  promote: new Map([[5, 'promote']]),
  mobile: new Map([[6, 'inspect-app']]),
  ship: new Map(),
  serve: new Map([
    [5, 'handoff'],
    [8, 'probe'],
  ]),
  trial: new Map([[2, 'trial']]),
  history: new Map([[7, 'inspect-past']]),
};

/** Commands besides the stories, on the project as a story leaves it. */
const others = {
  build: {
    'values-all': 'adder values --all',
    why: 'adder why FERRY_API_URL',
    compare: 'adder compare staging production',
    overview: 'adder',
  },
  lint: { lint: 'adder lint --color always --fail-on never | head -31' },
};

/** Lines for a shell, run before a command is shown. */
const before = {
  overview: 'adder gate production > /dev/null; sed -i s/booking/desk/ .env.production',
};

/** Commands that ask, and are shown while they do. */
const asking = {
  adopt: { fill: 'adder fill staging' },
};

/** Half a year of a project: the day, the command, and the change before it. */
const year = [
  [160, 'with production'],
  [118, "retire FARE_SIGNING_KEY --because 'rotated every quarter'"],
  [117, 'with production', [/KEY=.*/, 'KEY=b47e09c2f86d1a53e9c0743d6f1b8a25d0e94c67']],
  [80, 'with production', [/example.v1/, 'example/v2']],
  [29, "retire FARE_SIGNING_KEY --because 'rotated every quarter'"],
  [28, 'with production', [/KEY=.*/, 'KEY=e4b07d9153ac86f2d70b4e19c85a3f6672d1908c']],
  [9, 'with production', [/example.v2/, 'example/v3']],
  [2, 'with production'],
];

/** Stories to take pictures of; all of them, and of pages, if none is named. */
const only = process.argv.slice(2);

const DISPLAY = ':97';
const work = mkdtempSync(join(tmpdir(), 'adder-shots-'));
const bin = join(work, 'bin');
mkdirSync(bin);
writeFileSync(join(bin, 'adder'), `#!/bin/sh\nexec ${process.execPath} ${join(root, 'dist/adder.cjs')} "$@"\n`);
chmodSync(join(bin, 'adder'), 0o755);
writeFileSync(join(work, '.npmrc'), 'update-notifier=false\n');

// Nothing of this machine's settings is to be seen.
const env = { PATH: `${bin}:${process.env.PATH}`, HOME: work, DISPLAY, LANG: 'C.UTF-8' };
const server = spawn('Xvfb', [DISPLAY, '-screen', '0', '1280x800x24'], { stdio: 'ignore' });
await sleep(1500);
mkdirSync('docs/screenshots', { recursive: true });
const beside = [];
try {
  for (const [story, { template, builds, steps }] of Object.entries(stories)) {
    // Fewer than twenty pictures are kept: not every story has one.
    if (!shots[story] || (only.length > 0 && !only.includes(story))) continue;
    const folder = join(work, story);
    layOut(join('dist/demo', template), folder);
    if (builds) lendPackages(folder, join(root, 'node_modules'));
    for (const [index, step] of steps.entries()) {
      step.change?.(folder);
      if (step.runsUntil) {
        beside.push(spawn(process.execPath, step.runsUntil.args, { cwd: folder, stdio: 'ignore' }));
        await sleep(1000);
      } else if (!step.change || step.expects !== undefined) await run(step, folder, shots[story].get(index));
    }
    for (const [name, command] of Object.entries(others[story] ?? {})) {
      if (before[name]) spawnSync('sh', ['-c', before[name]], { cwd: folder, env });
      await run({ command, expects: 0 }, folder, name);
    }
    for (const [name, command] of Object.entries(asking[story] ?? {})) await run({ command }, folder, name);
  }
  if (only.length === 0) await reports(join(work, 'ship', 'adder.html'));
  if (only.length === 0 || only.includes('history')) await timeline(join(work, 'history'));
} finally {
  for (const child of beside) child.kill();
  server.kill();
}

/** Runs a step in a terminal, and keeps the picture if it has a name. */
async function run({ command: plain, expects, env: given = {}, input, withKey }, folder, name) {
  const settings = Object.entries(given).map(([key, value]) => `${key}=${value} `);
  if (withKey) settings.push('ADDER_KEY="$(adder key --print)" ');
  const command = `${input ? `echo ${input.trim()} | ` : ''}${settings.join('')}${plain}`;
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
  if (expects === undefined) await sleep(2500);
  else {
    const code = await exitCode(done);
    if (code !== expects) throw new Error(`${command} exited with ${code}, not ${expects}`);
    await sleep(700);
  }
  if (name)
    spawnSync('import', ['-window', 'root', '+dither', '-colors', '128', '-strip', `docs/screenshots/${name}.png`], {
      env,
      stdio: 'inherit',
    });
  terminal.kill();
  spawnSync('rm', ['-f', done]);
}

/** The time line of a history, as a page. */
async function timeline(folder) {
  spawnSync('rm', ['-rf', join(folder, '.adder'), join(folder, 'pipeline')]);
  layOut(join('dist/demo', 'history'), folder);
  const clock = `--require ${join(root, 'scripts/clock.cjs')}`;
  for (const [days, command, change] of year) {
    for (const name of change ? ['.env', '.env.production'] : []) {
      const path = join(folder, name);
      writeFileSync(path, readFileSync(path, 'utf8').replace(...change));
    }
    const { status } = spawnSync('sh', ['-c', `adder ${command}`], {
      cwd: folder,
      env: { ...env, NODE_OPTIONS: clock, CLOCK_DAYS: `${days}` },
      stdio: 'inherit',
    });
    if (status !== 0) throw new Error(`${command} exited with ${status}`);
  }
  const [oldest] = readdirSync(join(folder, '.adder/receipts/deckhand')).slice(-3);
  const { builtAt } = JSON.parse(readFileSync(join(folder, '.adder/receipts/deckhand', oldest), 'utf8')).predicate;
  const served = { bundle: 'deckhand', stage: 'production', builtAt, seenAt: builtAt };
  writeFileSync(join(folder, '.adder/served.json'), JSON.stringify({ 'https://desk.saltmarsh.example/': served }));
  await run({ command: 'adder history', expects: 0 }, folder, 'history');
  spawnSync('sh', ['-c', 'adder history --format html --save history.html --replace'], { cwd: folder, env });
  const { launch } = await load('test/support/browser.ts');
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 620 } });
  await page.goto(`file://${join(folder, 'history.html')}`);
  const picture = join(work, 'timeline.png');
  await page.screenshot({ path: picture });
  spawnSync('convert', [picture, '+dither', '-colors', '128', '-strip', 'docs/screenshots/timeline.png']);
  await browser.close();
}

/** The HTML report of the built files with each mistake once. @param {string} path */
async function reports(path) {
  const { launch } = await load('test/support/browser.ts');
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`file://${path}`);
  const picture = join(work, 'report.png');
  await page.screenshot({ path: picture });
  spawnSync('convert', [picture, '+dither', '-colors', '128', '-strip', 'docs/screenshots/report.png']);
  await browser.close();
}

async function exitCode(path) {
  for (let waited = 0; waited < 60_000; waited += 100) {
    const { stdout, status } = spawnSync('cat', [path], { encoding: 'utf8' });
    if (status === 0 && stdout !== '') return Number(stdout);
    await sleep(100);
  }
  throw new Error('the command did not end');
}
