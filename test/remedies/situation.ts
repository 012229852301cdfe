import { spawnSync } from 'node:child_process';
import { chmodSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import type { Code } from '../../src/core/words/catalogue.js';
import { bareEnvironment, program, type TestProject } from '../support/adder.js';
import type { Desk } from './followers.js';
import { commandsOf, type Found } from './found.js';
import { type Setting, settings } from './settings.js';

export type { Found };

/** A project with one finding, and somebody who does what its remedy says, and nothing else. */
export interface Situation {
  code: Code;
  variant: string;
  files: Readonly<Record<string, string | Uint8Array>>;
  /** The commands before the first check, as typed in a shell: a commit, a build. */
  before?: string;
  /** A command before each check. */
  first?: string;
  /** The command that reports the finding, without `adder`. */
  check: string;
  env?: Readonly<Record<string, string>>;
  /** The work of a person who reads the remedy. Without it, only the commands of the remedy are run. */
  follow?: (at: TestProject, found: Found, beside: Beside | undefined) => void | Promise<void>;
  /** The remedy that {@link follow} follows. */
  says?: RegExp;
  /** Tells whether nothing is to be done, so that the finding stays. */
  isStatement?: true;
  /** Something that runs beside the check: a server. */
  beside?: (at: TestProject) => Promise<Beside>;
}

/** A server that runs beside a check. `URL` in the words of the check is its address. */
export interface Beside {
  url: string;
  env?: Readonly<Record<string, string>>;
  /** Puts on the server what the project has now. */
  deploy?: () => void;
  stop(): Promise<void> | void;
}

/** A directory with a program `adder` in it, as an installed one has. */
const programs = (() => {
  const folder = mkdtempSync(join(tmpdir(), 'adder-bin-'));
  const path = join(folder, 'adder');
  writeFileSync(path, `#!/bin/sh\nexec '${process.execPath}' '${program}' "$@"\n`);
  chmodSync(path, 0o755);
  return folder;
})();

/**
 * Does what a line of commands says, `A && B`. Calls of Adder alone are made in this process, which takes less time than a shell and a
 * program.
 * @throws Error if one fails
 */
export function does(at: TestProject, line: string, env: Readonly<Record<string, string>> = {}): void {
  for (const part of line.split(' && ')) {
    if (!/^adder [\w ./-]+$/.test(part)) {
      type(at, part, env);
      continue;
    }
    const { code, stdout, stderr } = at.adder(part.split(' ').slice(1), env);
    if (code !== 0) throw new Error(`${part}: exit code ${code}\n${stdout}${stderr}`);
  }
}

/** Runs a line as somebody types it into a shell. @throws Error if it fails */
export function type(at: TestProject, line: string, env: Readonly<Record<string, string>> = {}): void {
  const bare = bareEnvironment({ ...author, ...env });
  const { status, stdout, stderr } = spawnSync('sh', ['-c', line], {
    cwd: at.folder,
    env: { ...bare, PATH: `${programs}:${bare.PATH}` },
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(`${line}: exit code ${status}\n${stdout}${stderr}`);
}

/** A project as somebody has it who follows a remedy. */
export function deskOf(at: TestProject): Desk {
  return {
    read: (path) => at.read(path),
    write: (path, text) => at.write(path, text),
    type: (line) => type(at, line),
  };
}

const author = {
  GIT_AUTHOR_NAME: 'quay',
  GIT_AUTHOR_EMAIL: 'quay@saltmarsh.test',
  GIT_COMMITTER_NAME: 'quay',
  GIT_COMMITTER_EMAIL: 'quay@saltmarsh.test',
};

/** A change that an editor makes. @throws Error if the text is not there */
export function edit(at: TestProject, path: string, from: string | RegExp, to: string): void {
  const text = at.read(path);
  const changed = text.replace(from, to);
  if (changed === text) throw new Error(`${path} has no ${from}`);
  at.write(path, changed);
}

export function append(at: TestProject, path: string, line: string): void {
  at.write(path, `${at.read(path)}${line}\n`);
}

/** Accepts a finding, where a remedy says so. */
export function accept(at: TestProject, { fingerprint }: Found): void {
  type(at, `adder accept ${fingerprint} --because 'checked by hand'`);
}

/** The environment of the next check: a remedy may say to take a name out of it. */
function without(env: Readonly<Record<string, string>>, remedy: string): Record<string, string> {
  const gone = /`unset (\w+)`/.exec(remedy)?.[1];
  return Object.fromEntries(Object.entries(env).filter(([name]) => name !== gone));
}

async function checked(
  at: TestProject,
  { first, check }: Situation,
  env: Readonly<Record<string, string>>,
  url?: string,
): Promise<Found[]> {
  if (first !== undefined) does(at, first, env);
  const args = check.split(' ').map((word) => (url === undefined ? word : word.replace('URL', url)));
  const { stdout, stderr } = await at.adderBeside([...args, '--format', 'json'], env);
  if (stdout === '') throw new Error(`no report of ${check}: ${stderr}`);
  return JSON.parse(stdout).findings;
}

/**
 * Follows each remedy once, and checks again: the finding is gone, and no other has come.
 * @throws by the test's assertions
 */
async function followed({ situation, setting }: { situation: Situation; setting: Setting }): Promise<void> {
  const { code, variant, files, before, env = {}, beside } = situation;
  const at = setting.project(files);
  const aside = await beside?.(at);
  const all = { ...env, ...aside?.env };
  try {
    if (before !== undefined) does(at, setting.line?.(before) ?? before, all);
    const found = await checked(at, situation, all, aside?.url);
    const those = found.filter((one) => one.code === code && one.variant === variant);
    expect(those, found.map(({ message }) => message).join('\n')).not.toEqual([]);
    let left = all;
    let after = found;
    for (let turn = 0; turn < those.length; turn += 1) {
      const one = after.find((other) => other.code === code && other.variant === variant);
      if (!one) break;
      left = await follows(at, one, left, situation, aside);
      aside?.deploy?.();
      after = await checked(at, situation, left, aside?.url);
    }
    const known = new Set(found.map(({ fingerprint }) => fingerprint));
    const wrong = after.filter((one) => those.some(({ fingerprint }) => fingerprint === one.fingerprint));
    if (!situation.isStatement) expect(wrong.map(({ message }) => message)).toEqual([]);
    const come = after.filter((one) => !known.has(one.fingerprint) && setting.brings?.(one) !== true);
    expect(come.map(({ message }) => message)).toEqual([]);
  } finally {
    await aside?.stop();
  }
}

/** Does what one remedy says. @returns the environment afterwards */
async function follows(
  at: TestProject,
  one: Found,
  env: Readonly<Record<string, string>>,
  { says, follow }: Situation,
  beside: Beside | undefined,
) {
  if (says) expect(one.remedy).toMatch(says);
  const commands = commandsOf(one);
  for (const command of commands) type(at, command, env);
  const left = without(env, one.remedy);
  const hasDone = commands.length > 0 || Object.keys(left).length < Object.keys(env).length;
  expect(follow !== undefined || hasDone, one.remedy).toBe(true);
  await follow?.(at, one, beside);
  return left;
}

/** A test for each situation. */
export function testRemedies(situations: readonly Situation[]): void {
  const all = settings.flatMap((setting) => situations.map((situation) => ({ situation, setting })));
  test.each(all)('$situation.code, $situation.variant, in $setting.name', followed);
}
