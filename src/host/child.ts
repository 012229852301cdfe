import type { ChildProcess, SpawnOptions } from 'node:child_process';
import { constants } from 'node:os';
import spawn from 'cross-spawn';
import type { MaskPlan } from '../core/mask/plan.js';
import { startGuard } from './guard.js';
import { maskedCopy } from './masked-copy.js';
import { endGroup, forwardSignals } from './signals.js';
import type { World } from './world.js';

export interface ChildCommand {
  command: string;
  args: readonly string[];
  env: Readonly<Record<string, string>>;
  cwd: string;
  /** Needles to mask in the child's output. */
  mask: Pick<MaskPlan, 'needles' | 'wrapped' | 'anchored' | 'printed'>;
  /** Ends the child and all that it started: kindly, and firmly when that is not enough. It reads no input then. */
  stop?: AbortSignal;
  /** Where its output goes, in place of Adder's own streams. It reads no input then, as others may run beside it. */
  output?: { stdout: NodeJS.WritableStream; stderr: NodeJS.WritableStream };
}

/** End of a child: its exit code as a shell would give it. */
export interface ChildResult {
  code: number;
  /** Why it could not be started, as a phrase after its name. */
  failedToStart?: string;
  signal?: string;
  /** True if Adder itself got a signal to end. */
  interrupted?: boolean;
}

/**
 * Runs a command to its end and masks its output as it streams. With nothing to mask, the command gets the terminal itself.
 *
 * Signals are forwarded to the child. In a terminal, the kernel sends Ctrl-C to the whole foreground group, so it is not sent
 * again. Elsewhere, the child has its own process group, which is signalled as a whole. If Adder is killed, a guard ends the
 * child.
 *
 * The run ends when the command exits. A background process may keep its output open; Adder then reads on only briefly.
 */
export async function runChild(command: ChildCommand, world: World): Promise<ChildResult> {
  const ownGroup = (!world.stdin.isTerminal || command.stop !== undefined) && process.platform !== 'win32';
  // Before the child starts: a signal in between would end only this process.
  const forwarding = forwardSignals(ownGroup);
  const guard = startGuard();
  try {
    const child = start(() => spawn(command.command, [...command.args], spawnOptions(command, ownGroup, world)));
    if (typeof child === 'string') return { code: NOT_EXECUTABLE, failedToStart: child };
    forwarding.to(child);
    if (child.pid !== undefined) guard?.over(ownGroup ? -child.pid : child.pid);
    command.stop?.addEventListener('abort', () => endGroup(child, ownGroup), { once: true });
    const exited = waitFor(child);
    const copied = Promise.allSettled(copies(child, command, world));
    const result = await exited;
    await drained(child, copied);
    return forwarding.happened() ? { ...result, interrupted: true } : result;
  } finally {
    forwarding.stop();
    guard?.release();
  }
}

function spawnOptions({ cwd, env, mask, stop, output }: ChildCommand, ownGroup: boolean, world: World): SpawnOptions {
  const pipes = mask.needles.length > 0 || output !== undefined;
  const input = stop || output ? 'ignore' : 'inherit';
  return {
    cwd,
    env: { ...env, ...(pipes ? colourSettings(world) : {}) },
    stdio: pipes ? [input, 'pipe', 'pipe'] : [input, 'inherit', 'inherit'],
    detached: ownGroup,
  };
}

function copies({ stdout, stderr }: ChildProcess, { mask, output }: ChildCommand, world: World): Promise<void>[] {
  if (!stdout || !stderr) return [];
  const ends = output !== undefined;
  return [
    maskedCopy(stdout, output?.stdout ?? world.stdout.stream(), mask, ends),
    maskedCopy(stderr, output?.stderr ?? world.stderr.stream(), mask, ends),
  ];
}

const [NOT_EXECUTABLE, NOT_FOUND] = [126, 127];

/** @returns the reason, if the system refuses the arguments themselves */
function start(spawns: () => ChildProcess): ChildProcess | string {
  try {
    return spawns();
  } catch (error) {
    return whyNotStarted(error);
  }
}

function whyNotStarted(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT') return 'was not found';
  if (code === 'EACCES') return 'is not executable';
  if (code === 'E2BIG') return 'got more arguments and values than the system allows';
  if (code === 'ENOTDIR') return 'was not found: part of its path is not a directory';
  return `cannot be started (${code ?? 'unknown reason'})`;
}

/** The child writes into a pipe, so the usual variables tell it that a terminal with colours shows the output. */
function colourSettings({ env, stdout }: World): Record<string, string> {
  const wanted = stdout.isTerminal && !env.NO_COLOR && env.FORCE_COLOR === undefined;
  return wanted ? { FORCE_COLOR: '1', CLICOLOR_FORCE: '1' } : {};
}

function waitFor(child: ChildProcess): Promise<ChildResult> {
  return new Promise((resolve) => {
    child.once('error', (error: NodeJS.ErrnoException) => {
      resolve({ code: error.code === 'ENOENT' ? NOT_FOUND : NOT_EXECUTABLE, failedToStart: whyNotStarted(error) });
    });
    child.once('exit', (code, signal) => {
      if (signal) resolve({ code: 128 + constants.signals[signal], signal });
      else resolve({ code: code ?? 1 });
    });
  });
}

/** Maximum time to read output after the command exits, and the time without output that ends the wait. */
const [MOST_REST_MS, QUIET_MS] = [5000, 250];

/** Waits for the rest of the output. If a background process holds it open, stops when no more comes. */
async function drained(child: ChildProcess, copied: Promise<unknown>): Promise<void> {
  const streams = [child.stdout, child.stderr].filter((one) => one !== null);
  const state = { isDone: false, last: Date.now(), until: Date.now() + MOST_REST_MS };
  const note = () => {
    state.last = Date.now();
  };
  for (const stream of streams) stream.on('data', note);
  const done = copied.then(() => {
    state.isDone = true;
  });
  while (!state.isDone && Date.now() < state.until && Date.now() - state.last < QUIET_MS) {
    await Promise.race([done, new Promise((resolve) => setTimeout(resolve, 25))]);
    // Backpressure from a slow reader, such as a pager, is not silence.
    if (streams.some((stream) => stream.isPaused()))
      Object.assign(state, { last: Date.now(), until: Date.now() + MOST_REST_MS });
  }
  if (state.isDone) return;
  for (const stream of streams) {
    stream.on('error', () => undefined);
    stream.push(null);
  }
  await done;
  for (const stream of streams) stream.destroy();
}
