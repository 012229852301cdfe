import { Outlet } from '../core/secrets/outlet.js';
import { setParserProbe } from '../core/syntax/parse.js';
import { Files } from './files.js';
import { survivesParsing } from './parser-probe.js';

/** One of the process's output streams. */
export interface Output {
  /** A text of Adder's own: known secrets in it are masked, control characters escaped. */
  write(text: string): void;
  /** Bytes as they are: a masked child's output, a generated file, a movement of the cursor. */
  pass(bytes: string | Uint8Array): void;
  isTerminal: boolean;
  /** Width in cells, where it is a terminal. */
  columns: number | undefined;
}

/** What commands see of the process. Only the entry point makes it from the real one. */
export interface World {
  cwd: string;
  files: Files;
  env: Readonly<Record<string, string | undefined>>;
  stdout: Output;
  stderr: Output;
  stdinIsTerminal: boolean;
  /** What all texts of Adder's own pass on their way out. */
  outlet: Outlet;
  now(): Date;
}

/** The world as the process has it. */
export function realWorld(): World {
  setParserProbe(survivesParsing);
  const outlet = new Outlet();
  return {
    outlet,
    files: new Files(),
    cwd: process.cwd(),
    // Names of objects are none of the environment.
    env: Object.assign(Object.create(null), process.env),
    stdout: outputOf(process.stdout, outlet),
    stderr: outputOf(process.stderr, outlet),
    // The stream takes milliseconds to open, and few ask.
    get stdinIsTerminal() {
      return process.stdin.isTTY === true;
    },
    now: () => new Date(),
  };
}

function outputOf(stream: NodeJS.WriteStream, outlet: Outlet): Output {
  // A reader that has seen enough (`| head`) is no failure of ours.
  stream.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code !== 'EPIPE') throw error;
  });
  return {
    write: (text) => void stream.write(outlet.clean(text)),
    pass: (bytes) => void stream.write(bytes),
    isTerminal: stream.isTTY === true,
    columns: stream.columns,
  };
}

/** The day, UTC, as 2026-11-24. */
export function today({ now }: Pick<World, 'now'>): string {
  return now().toISOString().slice(0, 10);
}
