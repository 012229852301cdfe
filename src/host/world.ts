/** One of the process's output streams. */
export interface Output {
  write(text: string | Uint8Array): void;
  isTerminal: boolean;
  /** Width in cells, where it is a terminal. */
  columns: number | undefined;
}

/** What commands see of the process. Only the entry point makes it from the real one. */
export interface World {
  cwd: string;
  env: Readonly<Record<string, string | undefined>>;
  stdout: Output;
  stderr: Output;
  stdinIsTerminal: boolean;
  now(): Date;
}

/** The world as the process has it. */
export function realWorld(): World {
  return {
    cwd: process.cwd(),
    env: process.env,
    stdout: outputOf(process.stdout),
    stderr: outputOf(process.stderr),
    // The stream takes milliseconds to open, and few ask.
    get stdinIsTerminal() {
      return process.stdin.isTTY === true;
    },
    now: () => new Date(),
  };
}

function outputOf(stream: NodeJS.WriteStream): Output {
  // A reader that has seen enough (`| head`) is no failure of ours.
  stream.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code !== 'EPIPE') throw error;
  });
  return { write: (text) => void stream.write(text), isTerminal: stream.isTTY === true, columns: stream.columns };
}

/** The day, UTC, as 2026-11-24. */
export function today({ now }: Pick<World, 'now'>): string {
  return now().toISOString().slice(0, 10);
}
