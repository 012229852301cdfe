import { PassThrough } from 'node:stream';
import { main } from '../../src/cli/main.js';
import { Outlet } from '../../src/core/secrets/outlet.js';
import { Files } from '../../src/host/files.js';
import { realWorld, type World } from '../../src/host/world.js';

/** One for all: each one listens to the process's streams. */
const { processes } = realWorld();

/** Runs a command in this process, on a directory and without a terminal. */
export async function runHere(folder: string, argv: readonly string[]): Promise<{ code: number; out: string }> {
  const outlet = new Outlet();
  const said: string[] = [];
  const output = {
    write: (text: string) => void said.push(outlet.clean(text)),
    pass: (bytes: string | Uint8Array) => void said.push(Buffer.from(bytes).toString()),
    stream: () => new PassThrough(),
    isTerminal: false,
    columns: undefined,
  };
  const world: World = {
    cwd: folder,
    files: new Files(),
    env: { PATH: process.env.PATH },
    stdout: output,
    stderr: output,
    stdin: { isTerminal: false, text: () => Promise.resolve('') },
    processes,
    outlet,
    now: () => new Date(),
  };
  const code = await main(argv, world);
  return { code, out: said.join('') };
}
