import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { makeStyle, type Style } from '../../core/report/style.js';
import { isEmptyOrNew, layOut, lendPackages } from '../../demo/layout.js';
import { type Step, stories } from '../../demo/story.js';
import type { World } from '../../host/world.js';
import { KEY_VARIABLE } from '../../project/open.js';
import type { DemoCall } from '../commands/demo.js';
import { wantsColour } from '../print-options.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [given], options, world }: DemoCall): Promise<number> {
  const folder = given === undefined ? mkdtempSync(join(tmpdir(), 'saltmarsh-')) : resolve(world.cwd, given);
  if (!isEmptyOrNew(folder))
    throw new Failure(`${folder} is not empty`, 'use a new directory, so that no file of yours is changed');
  const { template, builds, steps } = stories[options.story];
  layOut(join(import.meta.dirname, 'demo', template), folder);
  if (builds) givePackages(folder, options.install, world);
  const colour = wantsColour(options.color, world.stdout, world.env);
  const style = makeStyle(colour);
  world.stdout.write(`${style.strong('Saltmarsh Ferries')}, created in ${folder}\n`);
  const running: ChildProcess[] = [];
  try {
    for (const step of steps) {
      if (step.runsUntil) running.push(startBeside(step.runsUntil, folder));
      const failed = runStep(step, folder, style, colour, world);
      if (failed) return failed;
    }
  } finally {
    for (const child of running) child.kill();
  }
  world.stdout.write(`\n${style.dim(`The project stays in ${folder}. Try the commands there.`)}\n`);
  return EXIT.fine;
}

/** Starts a program of the story and waits until it is ready. @throws Failure if it does not get ready */
function startBeside({ file, args }: NonNullable<Step['runsUntil']>, folder: string): ChildProcess {
  const child = spawn(process.execPath, [...args], { cwd: folder, stdio: 'ignore' });
  const sleeper = new Int32Array(new SharedArrayBuffer(4));
  for (let waited = 0; waited < READY_MS; waited += 50) {
    Atomics.wait(sleeper, 0, 0, 50);
    if (existsSync(join(folder, file))) return child;
  }
  child.kill();
  throw new Failure(
    `\`node ${args.join(' ')}\` did not start`,
    'stop programs that use the ports in host.json, and try again',
  );
}

/** Time for a program of the story to start. */
const READY_MS = 10_000;

/** @returns the exit code of a step that did not end as expected */
function runStep(
  { says, command, expects, change, env: given = {}, input, withKey }: Step,
  folder: string,
  style: Style,
  colour: boolean,
  world: World,
): number | undefined {
  const settings = Object.entries(given).map(([name, value]) => `${name}=${value} `);
  const typed = `${input ? `echo ${input.trim()} | ` : ''}${settings.join('')}${withKey ? `${KEY_VARIABLE}="$(adder key --print)" ` : ''}${command}`;
  world.stdout.write(`\n${says === '' ? '' : `${style.dim(`# ${says}`)}\n`}${style.strong(`$ ${typed}`)}\n`);
  change?.(folder);
  if (expects === undefined) return undefined;
  // Words may be in single quotes, as a shell needs them.
  const [, ...words] = [...command.matchAll(/'([^']*)'|\S+/g)].map(([whole, quoted]) => quoted ?? whole);
  const env: Record<string, string | undefined> = { ...world.env, ...(colour && { FORCE_COLOR: '1' }) };
  // The story's names must come only from its files, not from this environment.
  for (const name of namesOfTheStories) delete env[name];
  Object.assign(env, given, withKey && { [KEY_VARIABLE]: readFileSync(join(folder, '.adder/key'), 'utf8') });
  const { status } = spawnSync(process.execPath, [process.argv[1] as string, ...words], {
    cwd: folder,
    env,
    ...(input === undefined ? {} : { input }),
    stdio: [input === undefined ? 'inherit' : 'pipe', 'inherit', 'inherit'],
  });
  world.stdout.write(style.dim(`exit code ${status}\n`));
  if (status === expects) return undefined;
  world.stderr.write(`adder: the demo expected exit code ${expects} here\n`);
  return EXIT.findings;
}

const namesOfTheStories = [
  'FERRY_API_URL',
  'MAP_TILES_KEY',
  'TIDE_CHART',
  'SEASON',
  'SEATS_PER_FERRY',
  'NOTICE_BANNER',
  'VITE_FERRY_API_URL',
  'QUAY_ADMIN_PASSWORD',
  'ASSET_BASE_URL',
];

/** The demo builds with Vite: an installed one nearby, or one from npm if asked for. */
function givePackages(folder: string, install: boolean, world: World): void {
  const nearby = [world.cwd, import.meta.dirname].map(packagesWithVite).find((found) => found !== undefined);
  if (nearby !== undefined) lendPackages(folder, nearby);
  else if (!install) {
    throw new Failure(
      `the demo builds with Vite, which is not installed here; the project was created in ${folder}`,
      `run \`adder demo --install\` to install it with npm`,
    );
  } else if (spawnSync('npm', ['install'], { cwd: folder, stdio: 'inherit' }).status !== 0) {
    throw new Failure(`npm could not install the demo's packages in ${folder}`, 'see its output above');
  }
}

function packagesWithVite(from: string): string | undefined {
  try {
    const manifest = createRequire(join(from, 'index.js')).resolve('vite/package.json');
    const folder = dirname(dirname(manifest));
    return existsSync(join(folder, '.bin')) ? folder : undefined;
  } catch {
    return undefined;
  }
}
