import { PassThrough } from 'node:stream';
import { main } from '../../src/cli/main.js';
import { Outlet } from '../../src/core/secrets/outlet.js';
import type { Output } from '../../src/host/output.js';
import { realWorld, type World } from '../../src/host/world.js';
import type { Ran } from './call.js';

/** One for all: each one listens to the process's streams. */
const real = realWorld();

/** The place and the surroundings of a call. */
export interface Here {
  cwd: string;
  env: Readonly<Record<string, string | undefined>>;
  /** Absent if standard output is no terminal. */
  columns?: number | undefined;
}

/** Runs a command in this thread, with a world of its own. */
export async function runHere({ cwd, env, columns }: Here, args: readonly string[]): Promise<Ran> {
  const outlet = new Outlet();
  const stdout = new Written(outlet, columns);
  const stderr = new Written(outlet);
  const world: World = { ...real, cwd, env: Object.assign(Object.create(null), env), outlet, stdout, stderr, stdin };
  const code = await main(args, world);
  return { code, stdout: stdout.text, stderr: stderr.text };
}

const stdin = { isTerminal: false, text: () => Promise.resolve('') };

/** Keeps the output of a call. */
class Written implements Output {
  readonly #pieces: Buffer[] = [];
  readonly isTerminal: boolean;
  readonly isFile = false;

  constructor(
    readonly outlet: Outlet,
    readonly columns: number | undefined = undefined,
  ) {
    this.isTerminal = columns !== undefined;
  }

  write(text: string): void {
    this.pass(this.outlet.clean(text));
  }

  pass(bytes: string | Uint8Array): void {
    this.#pieces.push(Buffer.from(bytes));
  }

  stream(): PassThrough {
    return new PassThrough().on('data', (bytes) => this.pass(bytes));
  }

  get text(): string {
    return Buffer.concat(this.#pieces).toString();
  }
}
