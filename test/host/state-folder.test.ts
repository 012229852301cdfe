import fs, { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { syncBuiltinESMExports } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { assertOwnState, inStateFolder, removeIfEmpty } from '../../src/host/state-folder.js';

type Call = (...args: unknown[]) => unknown;

/** The calls of the file system that the module makes. */
const CALLS = ['lstatSync', 'mkdirSync', 'readdirSync', 'readFileSync', 'renameSync', 'rmdirSync', 'writeFileSync'];
const MOST_CALLS = 40;
const calls = fs as unknown as Record<string, Call>;
const real = { ...calls };
const folders: string[] = [];

afterEach(() => {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true });
});

const fresh = (): string => {
  const root = mkdtempSync(join(tmpdir(), 'adder-state-'));
  folders.push(root);
  return root;
};

/** Runs a step while another process acts before its call with this number. @returns whether there was such a call */
function disturbed(number: number, step: () => void, other: () => void): boolean {
  let count = 0;
  for (const name of CALLS)
    calls[name] = (...args) => {
      if (++count === number) {
        restore();
        other();
      }
      return (real[name] as Call)(...args);
    };
  syncBuiltinESMExports();
  try {
    step();
  } finally {
    restore();
  }
  return count >= number;
}

function restore(): void {
  Object.assign(fs, Object.fromEntries(CALLS.map((name) => [name, real[name]])));
  syncBuiltinESMExports();
}

const whole = (root: string) => inStateFolder(root, () => {});

const STATES: Record<string, (root: string) => void> = {
  'no directory': () => {},
  'a directory that ignores itself': whole,
  'a directory without an ignore file': (root) => mkdirSync(join(root, '.adder')),
  'a directory with an empty ignore file': (root) => {
    mkdirSync(join(root, '.adder'));
    writeFileSync(join(root, '.adder/.gitignore'), '');
  },
};

const OTHERS: Record<string, (root: string) => void> = {
  'removes the directory': (root) => rmSync(join(root, '.adder'), { recursive: true, force: true }),
  'removes it if it is empty': removeIfEmpty,
  'makes the directory': whole,
  'writes a file': (root) => inStateFolder(root, () => writeFileSync(join(root, '.adder/theirs'), '')),
};

const STEPS: Record<string, (root: string) => void> = {
  writes: (root) => inStateFolder(root, () => writeFileSync(join(root, '.adder/mine'), '')),
  checks: assertOwnState,
  'removes what is empty': removeIfEmpty,
};

const cases = Object.keys(STEPS).flatMap((step) =>
  Object.keys(STATES).flatMap((state) => Object.keys(OTHERS).map((other) => ({ step, state, other }))),
);

describe('another process acts before any call of the file system', () => {
  test.each(cases)('$step in $state, and the other $other', ({ step, state, other }) => {
    let number = 1;
    for (; number < MOST_CALLS; number++) {
      const root = fresh();
      STATES[state]?.(root);
      const isReached = disturbed(
        number,
        () => STEPS[step]?.(root),
        () => OTHERS[other]?.(root),
      );
      if (!isReached) break;
      expect(unignored(root)).toEqual([]);
    }
    expect(number).toBeLessThan(MOST_CALLS);
  });
});

/** Files that version control would see. */
function unignored(root: string): string[] {
  const folder = join(root, '.adder');
  if (!existsSync(folder)) return [];
  const names = readdirSync(folder).filter((name) => !name.startsWith('.gitignore'));
  const ignore = join(folder, '.gitignore');
  const isIgnored = existsSync(ignore) && readFileSync(ignore, 'utf8').split('\n').includes('*');
  return isIgnored ? [] : names;
}
