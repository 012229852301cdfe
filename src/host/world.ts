import { Outlet } from '../core/secrets/outlet.js';
import { setParserProbe } from '../core/syntax/parse.js';
import { type Captured, captureOutput } from './capture.js';
import type { ChildCommand, ChildResult } from './child.js';
import { Files } from './files.js';
import { type Output, StandardOutput } from './output.js';
import { survivesParsing } from './parser-probe.js';

/** Standard input. */
export interface Input {
  isTerminal: boolean;
  /** All of it, as text. */
  text(): Promise<string>;
}

/** Other programs. */
export interface Processes {
  /** Runs a program and captures its output, see {@link captureOutput}. */
  capture(
    command: readonly string[],
    options: { cwd: string; env: World['env']; seconds: number; input?: string | undefined },
  ): Captured;
  /** Runs a build with masked output, see `runChild`. */
  run(command: ChildCommand, world: World): Promise<ChildResult>;
}

/** The outside world as commands see it: only the entry point makes it from the real process. */
export interface World {
  cwd: string;
  files: Files;
  env: Readonly<Record<string, string | undefined>>;
  stdout: Output;
  stderr: Output;
  stdin: Input;
  processes: Processes;
  /** Masks and escapes all of Adder's own texts. */
  outlet: Outlet;
  now(): Date;
}

/** Node.js warns that parts of it which packages use are experimental. Nobody who runs a check can change that. */
function ignoreExperiments(): void {
  const emit = process.emitWarning.bind(process) as (...words: unknown[]) => void;
  process.emitWarning = (...words: unknown[]) => {
    if (words[1] !== 'ExperimentalWarning') emit(...words);
  };
}

/**
 * A copy of an environment without a prototype, whose names would count as variables. Windows finds a name in any case: there each name
 * is known in capitals too, but not listed twice.
 */
export function environmentOf(env: NodeJS.ProcessEnv, platform: string): Record<string, string | undefined> {
  const copy: Record<string, string | undefined> = Object.assign(Object.create(null), env);
  if (platform !== 'win32') return copy;
  for (const [name, value] of Object.entries(env))
    if (!(name.toUpperCase() in copy)) Object.defineProperty(copy, name.toUpperCase(), { value });
  return copy;
}

/** The world of this process. */
export function realWorld(): World {
  ignoreExperiments();
  setParserProbe(survivesParsing);
  const outlet = new Outlet();
  return {
    outlet,
    files: new Files(),
    cwd: process.cwd(),
    env: environmentOf(process.env, process.platform),
    stdout: new StandardOutput('stdout', outlet),
    stderr: new StandardOutput('stderr', outlet),
    stdin: {
      // Opening the stream takes milliseconds, and few commands need it.
      get isTerminal() {
        return process.stdin.isTTY === true;
      },
      async text() {
        const { text } = await import('node:stream/consumers');
        return text(process.stdin);
      },
    },
    processes: {
      capture: captureOutput,
      run: async (command, world) => (await import('./child.js')).runChild(command, world),
    },
    now: () => new Date(),
  };
}

/** The day, UTC, as 2026-11-24. */
export function today({ now }: Pick<World, 'now'>): string {
  return now().toISOString().slice(0, 10);
}
