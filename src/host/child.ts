import type { ChildProcess } from 'node:child_process';
import { constants } from 'node:os';
import { Transform, type TransformCallback } from 'node:stream';
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
  /** Why it could not be started. */
  failedToStart?: 'not found' | 'not executable';
  signal?: string;
  /** Whether Adder itself was told to end meanwhile. */
  interrupted?: boolean;
}

const forwarded = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const;

/**
 * Runs a command to its end, its output masked as it streams. Without anything to mask it keeps the terminal itself.
 *
 * A signal that Adder gets, the child gets: in a terminal Ctrl-C goes to the whole foreground group by itself, so there it
 * is not sent a second time; elsewhere the child has a process group of its own, which is signalled whole.
 */
export async function runChild(command: ChildCommand, world: World): Promise<ChildResult> {
  const masks = command.mask.needles.length > 0;
  const { stop, output } = command;
  const pipes = masks || output !== undefined;
  const ownGroup = (!world.stdinIsTerminal || stop !== undefined) && process.platform !== 'win32';
  const input = stop || output ? 'ignore' : 'inherit';
  const child = spawn(command.command, [...command.args], {
    cwd: command.cwd,
    env: { ...command.env, ...(pipes ? colourSettings(world) : {}) },
    stdio: pipes ? [input, 'pipe', 'pipe'] : [input, 'inherit', 'inherit'],
    detached: ownGroup,
  });
  const forwarding = forwardSignals(child, ownGroup);
  stop?.addEventListener('abort', () => endGroup(child, ownGroup), { once: true });
  try {
    const ended = waitFor(child);
    if (child.stdout && child.stderr) {
      const copies = [
        copy(child.stdout, output?.stdout ?? process.stdout, command.mask, output !== undefined),
        copy(child.stderr, output?.stderr ?? process.stderr, command.mask, output !== undefined),
      ];
      await Promise.allSettled(copies);
    }
    const result = await ended;
    return forwarding.happened() ? { ...result, interrupted: true } : result;
  } finally {
    forwarding.stop();
  }
}

/** The child writes into a pipe, so it is told by the usual variables that a terminal with colours is at its end. */
function colourSettings({ env, stdout }: World): Record<string, string> {
  const wanted = stdout.isTerminal && !env.NO_COLOR && env.FORCE_COLOR === undefined;
  return wanted ? { FORCE_COLOR: '1', CLICOLOR_FORCE: '1' } : {};
}

function forwardSignals(child: ChildProcess, ownGroup: boolean): { happened(): boolean; stop(): void } {
  let happened = false;
  const handlers = forwarded.map((signal) => {
    const handler = () => {
      happened = true;
      if (child.pid === undefined || child.exitCode !== null) return;
      if (ownGroup) signalGroup(child.pid, signal);
      else if (signal !== 'SIGINT') child.kill(signal);
    };
    process.on(signal, handler);
    return { signal, handler };
  });
  return {
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
  child.once('close', () => {
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
      const failedToStart = error.code === 'EACCES' ? 'not executable' : 'not found';
      resolve({ code: failedToStart === 'not found' ? 127 : 126, failedToStart });
    });
    child.once('close', (code, signal) => {
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
  await pipeline(from, new MaskTransform(mask), to, { end });
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
