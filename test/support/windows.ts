import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'vitest';
import type { Ran } from './call.js';

/** The program for Windows, as `scripts/windows.mjs` has installed it: paths of this system. */
export interface WindowsProgram {
  /** Node.js for Windows. */
  node: string;
  program: string;
  /** The directory of Wine's settings and drives. */
  prefix: string;
}

/** Undefined unless `npm run windows` runs the tests. */
export function windowsProgram(): WindowsProgram | undefined {
  const path = process.env.ADDER_WINDOWS;
  return path === undefined ? undefined : JSON.parse(readFileSync(path, 'utf8'));
}

/** A path of this system as Wine shows it to programs. */
export function windowsPath(path: string): string {
  return `Z:${path.replaceAll('/', '\\')}`;
}

/** The environment of a program under Wine. The native parser and resolver do not load there. */
export function wineEnvironment(
  { node, prefix }: WindowsProgram,
  env: Readonly<Record<string, string>> = {},
): Record<string, string> {
  const { PATH = '', ...others } = env;
  return {
    PATH: process.env.PATH ?? PATH,
    HOME: tmpdir(),
    WINEPREFIX: prefix,
    WINEDEBUG: '-all',
    // Names of files are UTF-8.
    LC_ALL: 'C.UTF-8',
    WINEPATH: windowsPath(join(node, '..')),
    NODE_SKIP_PLATFORM_CHECK: '1',
    NAPI_RS_FORCE_WASI: '1',
    ...others,
  };
}

/** A call of the program. `modules` are loaded before it. */
export interface WineCall {
  cwd: string;
  env?: Readonly<Record<string, string>>;
  input?: string | undefined;
  modules?: readonly string[];
}

/** Runs the program under Wine. Wine 8 has no pipes that Node.js accepts, so output goes to files. */
export function underWine(
  at: WindowsProgram,
  args: readonly string[],
  { cwd, env, input, modules = [] }: WineCall,
): Ran {
  const folder = mkdtempSync(join(tmpdir(), 'adder-wine-'));
  const [out, err] = [join(folder, 'out'), join(folder, 'err')];
  const files = [openSync(out, 'w'), openSync(err, 'w')];
  try {
    // The Node.js of the tests is another one there.
    const words = args.map((one) => (one === process.execPath ? windowsPath(at.node) : one));
    const required = modules.flatMap((path) => ['--require', windowsPath(path)]);
    const { status } = spawnSync('wine', [at.node, ...required, windowsPath(at.program), ...words], {
      cwd,
      env: wineEnvironment(at, env),
      ...(input !== undefined && { input }),
      stdio: [input === undefined ? 'ignore' : 'pipe', files[0], files[1]],
    });
    return { code: status, stdout: readFileSync(out, 'utf8'), stderr: readFileSync(err, 'utf8') };
  } finally {
    for (const file of files) closeSync(file as number);
    rmSync(folder, { recursive: true });
  }
}

/** A test of modes, links, devices, pipes or names that Windows or Wine does not have. */
export const needsUnix = test.skipIf(windowsProgram() !== undefined);
