import { limits } from '../core/limits/index.js';
import { byteSize } from '../core/text/display.js';
import type { World } from './world.js';

/** Standard output of a program, or the problem, as a phrase after its name. */
export interface Captured {
  output: Uint8Array;
  problem?: string;
  /** Its standard error, if it failed. It may contain values. */
  errors?: string;
}

/**
 * Runs a program without a shell and captures its output.
 * @param seconds after which it is ended @param input for its standard input
 */
export function captureOutput(
  command: readonly string[],
  { cwd, env, seconds, input }: { cwd: string; env: World['env']; seconds: number; input?: string | undefined },
): Captured {
  const [program = '', ...args] = command;
  const { stdout, stderr, status, signal, error } = process
    .getBuiltinModule('node:child_process')
    .spawnSync(program, args, {
      cwd,
      env,
      stdio: [input === undefined ? 'ignore' : 'pipe', 'pipe', 'pipe'],
      ...(input !== undefined && { input }),
      timeout: seconds * 1000,
      killSignal: 'SIGKILL',
      maxBuffer: limits.commandOutputBytes.value,
    });
  const output = stdout ?? new Uint8Array();
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  if (code === 'ETIMEDOUT') return { output, problem: `was stopped after ${seconds} seconds` };
  if (code === 'ENOBUFS') return { output, problem: `printed more than ${byteSize(limits.commandOutputBytes.value)}` };
  if (code === 'ENOENT') return { output, problem: 'was not found' };
  if (error) return { output, problem: `could not be started (${code})` };
  if (signal) return { output, problem: `was ended by ${signal}` };
  if (status === 0) return { output };
  return { output, problem: `exited with code ${status}`, errors: String(stderr ?? '') };
}
