import { fstatSync, writeSync } from 'node:fs';
import { EXIT, Failure } from '../core/findings/failure.js';
import type { Outlet } from '../core/secrets/outlet.js';
import { describeFileError } from './files.js';

/** One of the process's output streams. */
export interface Output {
  /** Writes a text of Adder's own: known secrets are masked, control characters escaped. */
  write(text: string): void;
  /** Writes raw bytes: a masked child's output, a generated file, cursor movements. */
  pass(bytes: string | Uint8Array): void;
  /** For what is copied as it comes. All that is written later goes through it too, so that the order is kept. */
  stream(): NodeJS.WritableStream;
  isTerminal: boolean;
  /** True if it goes to a file, which stays. */
  isFile: boolean;
  /** Width of the terminal in cells. */
  columns: number | undefined;
}

type Stream = NodeJS.WriteStream;

/** The reader has gone: it stopped early (`| head`). */
const gone: ReadonlySet<string | undefined> = new Set(['EPIPE', 'EOF']);

/** The terminal was closed; of a file, its disk failed. */
const HUNG_UP = 'EIO';

/**
 * A standard stream of this process. Pipes and files are written directly: the stream object alone takes as long as reading the
 * contract. It is made for terminals, for what is copied, and if a pipe that others use too is full.
 */
export class StandardOutput implements Output {
  #stream: Stream | undefined;
  #isLost = false;
  #isDevice: boolean | undefined;

  constructor(
    readonly name: 'stdout' | 'stderr',
    readonly outlet: Outlet,
  ) {}

  write(text: string): void {
    this.pass(this.outlet.clean(text));
  }

  /** @throws Failure if standard output cannot be written; nobody can be told that of standard error */
  pass(bytes: string | Uint8Array): void {
    if (this.#isLost) return;
    try {
      if (this.#stream || this.#isOnDevice) this.stream().write(bytes);
      else this.#writeDirectly(typeof bytes === 'string' ? Buffer.from(bytes) : bytes);
    } catch (error) {
      this.#isLost = true;
      if (this.#matters(error as NodeJS.ErrnoException)) throw failureFor(error as NodeJS.ErrnoException);
    }
  }

  stream(): Stream {
    if (this.#stream) return this.#stream;
    const stream = process[this.name];
    stream.on('error', (error: NodeJS.ErrnoException) => {
      if (this.#isLost) return;
      this.#isLost = true;
      // It may come after the last write, so no command can handle it.
      if (this.#matters(error)) tellAtOnce(failureFor(error), this.outlet);
    });
    this.#stream = stream;
    return stream;
  }

  get isTerminal(): boolean {
    return this.#isOnDevice && this.stream().isTTY === true;
  }

  get isFile(): boolean {
    return fstatSync(this.#number).isFile();
  }

  get columns(): number | undefined {
    return this.isTerminal ? this.stream().columns : undefined;
  }

  /** Terminals are devices; Windows tells it of none. */
  get #isOnDevice(): boolean {
    this.#isDevice ??= process.platform === 'win32' || isDevice(this.#number);
    return this.#isDevice;
  }

  get #number(): number {
    return this.name === 'stdout' ? 1 : 2;
  }

  #writeDirectly(bytes: Uint8Array): void {
    let written = 0;
    try {
      while (written < bytes.length) written += writeSync(this.#number, bytes, written);
    } catch (error) {
      // Another program has set the pipe to refuse what it has no room for; the stream waits for room.
      if ((error as NodeJS.ErrnoException).code !== 'EAGAIN') throw error;
      this.stream().write(bytes.subarray(written));
    }
  }

  /** Nobody can be told that standard error cannot be written. */
  #matters({ code }: NodeJS.ErrnoException): boolean {
    return this.name === 'stdout' && !gone.has(code) && !(code === HUNG_UP && this.#isOnDevice);
  }
}

function failureFor(error: NodeJS.ErrnoException): Failure {
  const { code = 'unknown reason' } = error;
  const message = `standard output ${code === 'ENOSPC' ? describeFileError(error) : `cannot be written (${code})`}`;
  return new Failure(message, 'make room, or write somewhere else', EXIT.unread);
}

function tellAtOnce({ message, remedy, exitCode }: Failure, outlet: Outlet): void {
  new StandardOutput('stderr', outlet).write(`adder: ${message}\n  → ${remedy}\n`);
  process.once('exit', () => {
    process.exitCode = exitCode;
  });
}

function isDevice(file: number): boolean {
  try {
    return fstatSync(file).isCharacterDevice();
  } catch {
    return true;
  }
}
