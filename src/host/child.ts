import type { ChildProcess } from 'node:child_process';
import { constants } from 'node:os';
import { Transform, type TransformCallback, Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import spawn from 'cross-spawn';
import { MaskingStream } from '../core/mask/masking.js';
import type { MaskPlan } from '../core/mask/plan.js';
import type { World } from './world.js';

export interface ChildCommand {
  command: string;
  args: readonly string[];
  env: Readonly<Record<string, string>>;
  cwd: string;
  /** What is masked in its output. */
  mask: Pick<MaskPlan, 'needles' | 'wrapped'>;
  /** Ends the child and all that it started: kindly, and firmly when that is not enough. It reads no input then. */
  stop?: AbortSignal;
  /** Where its output goes, in place of Adder's own streams. It reads no input then, as others may run beside it. */
  output?: { stdout: NodeJS.WritableStream; stderr: NodeJS.WritableStream };
}

/** What became of a child: its exit code as a shell would give it. */
export interface ChildResult {
  code: number;
  /** Why it could not be started, as a phrase behind its name. */
  failedToStart?: string;
  signal?: string;
  /** Whether Adder itself was told to end meanwhile. */
  interrupted?: boolean;
}

const forwarded = ['SIGINT', 'SIGTERM', 'SIGHUP', 'SIGQUIT'] as const;

/**
 * Runs a command to its end, its output masked as it streams. Without anything to mask it keeps the terminal itself.
 *
 * Signals are forwarded to the child. In a terminal the kernel sends Ctrl-C to the whole foreground group, so it is not sent
 * again; elsewhere the child has its own process group, which is signalled as a whole. If Adder is killed, a guard ends
 * the child.
 *
 * The run ends when the command exits. A background process may keep its output open; Adder then reads on only briefly.
 */
export async function runChild(command: ChildCommand, world: World): Promise<ChildResult> {
  const masks = command.mask.needles.length > 0;
  const { stop, output } = command;
  const pipes = masks || output !== undefined;
  const ownGroup = (!world.stdin.isTerminal || stop !== undefined) && process.platform !== 'win32';
  const input = stop || output ? 'ignore' : 'inherit';
  // Before the child starts: a signal in between would end only this process.
  const forwarding = forwardSignals(ownGroup);
  const guard = startGuard();
  const started = start(() =>
    spawn(command.command, [...command.args], {
      cwd: command.cwd,
      env: { ...command.env, ...(pipes ? colourSettings(world) : {}) },
      stdio: pipes ? [input, 'pipe', 'pipe'] : [input, 'inherit', 'inherit'],
      detached: ownGroup,
    }),
  );
  if (typeof started === 'string') {
    forwarding.stop();
    guard?.release();
    return { code: NOT_EXECUTABLE, failedToStart: started };
  }
  const child = started;
  forwarding.to(child);
  if (child.pid !== undefined) guard?.over(ownGroup ? -child.pid : child.pid);
  stop?.addEventListener('abort', () => endGroup(child, ownGroup), { once: true });
  try {
    const exited = waitFor(child);
    const copies: Promise<void>[] =
      child.stdout && child.stderr
        ? [
            copy(child.stdout, output?.stdout ?? process.stdout, command.mask, output !== undefined),
            copy(child.stderr, output?.stderr ?? process.stderr, command.mask, output !== undefined),
          ]
        : [];
    const copied = Promise.allSettled(copies);
    const result = await exited;
    await drained(child, copied);
    return forwarding.happened() ? { ...result, interrupted: true } : result;
  } finally {
    forwarding.stop();
    guard?.release();
  }
}

const [NOT_EXECUTABLE, NOT_FOUND] = [126, 127];

/** @returns why it cannot be started, where the arguments themselves are of no use */
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

/**
 * Starts a shell that waits for a line from this process. If this process is killed, the shell ends the child.
 * @returns `over` takes a process, or a group as its negative number
 */
function startGuard(): { over(target: number): void; release(): void } | undefined {
  if (process.platform === 'win32') return undefined;
  const script = 'read target && { read word || { kill -s TERM -- "$target"; sleep 4; kill -s KILL -- "$target"; }; }';
  const guard = spawn('/bin/sh', ['-c', script], {
    stdio: ['pipe', 'ignore', 'ignore'],
    detached: true,
    env: { PATH: '/usr/bin:/bin' },
  });
  guard.on('error', () => undefined);
  guard.stdin?.on('error', () => undefined);
  guard.unref();
  (guard.stdin as unknown as { unref?(): void } | null)?.unref?.();
  let word = '';
  return {
    over(target) {
      word = 'done\n';
      guard.stdin?.write(`${target}\n`);
    },
    release: () => void guard.stdin?.end(word),
  };
}

/** The child writes into a pipe, so the usual variables tell it that a terminal with colours shows the output. */
function colourSettings({ env, stdout }: World): Record<string, string> {
  const wanted = stdout.isTerminal && !env.NO_COLOR && env.FORCE_COLOR === undefined;
  return wanted ? { FORCE_COLOR: '1', CLICOLOR_FORCE: '1' } : {};
}

interface Forwarding {
  to(child: ChildProcess): void;
  happened(): boolean;
  stop(): void;
}

function forwardSignals(ownGroup: boolean): Forwarding {
  let happened = false;
  let child: ChildProcess | undefined;
  const handlers = forwarded.map((signal) => {
    const handler = () => {
      happened = true;
      if (child?.pid === undefined || child.exitCode !== null || child.signalCode !== null) return;
      if (ownGroup) signalGroup(child.pid, signal);
      else if (signal !== 'SIGINT') child.kill(signal);
    };
    process.on(signal, handler);
    return { signal, handler };
  });
  return {
    to(one) {
      child = one;
    },
    happened: () => happened,
    stop() {
      for (const { signal, handler } of handlers) process.off(signal, handler);
    },
  };
}

/** How long a child may take to end after it was asked to. */
const KIND_MS = 4000;

function endGroup(child: ChildProcess, ownGroup: boolean): void {
  const send = (signal: NodeJS.Signals) => {
    if (child.pid === undefined) return;
    if (ownGroup) signalGroup(child.pid, signal);
    else child.kill(signal);
  };
  send('SIGTERM');
  const firmly = setTimeout(() => send('SIGKILL'), KIND_MS);
  child.once('exit', () => {
    clearTimeout(firmly);
    // What the child started may have outlived it.
    send('SIGKILL');
  });
}

function signalGroup(pid: number, signal: NodeJS.Signals): void {
  try {
    process.kill(-pid, signal);
  } catch {
    // The group ended in the meantime.
  }
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

async function copy(
  from: NodeJS.ReadableStream,
  to: NodeJS.WritableStream,
  mask: ChildCommand['mask'],
  end: boolean,
): Promise<void> {
  await pipeline(from, new MaskTransform(mask), end ? to : handingOn(to));
}

/** Wraps a shared stream, which must neither end nor collect listeners. */
function handingOn(to: NodeJS.WritableStream): Writable {
  return new Writable({
    write(chunk: Buffer, _encoding, done) {
      // An error (a closed pipe) ends the copy, so that the child gets it too.
      to.write(chunk, done);
    },
  });
}

/** How long the end of a line waits that may be the beginning of a value, as a question at a prompt can be. */
const WAIT_MS = 150;

class MaskTransform extends Transform {
  readonly #masking: MaskingStream;
  #waiting: NodeJS.Timeout | undefined;

  constructor({ needles, wrapped }: ChildCommand['mask']) {
    super();
    this.#masking = new MaskingStream(needles, wrapped);
  }

  override _transform(chunk: Buffer, _encoding: BufferEncoding, done: TransformCallback): void {
    clearTimeout(this.#waiting);
    const shown = this.#masking.push(chunk);
    this.#waiting = setTimeout(() => this.push(this.#masking.pause()), WAIT_MS).unref();
    done(null, shown);
  }

  override _flush(done: TransformCallback): void {
    clearTimeout(this.#waiting);
    done(null, this.#masking.end());
  }
}
