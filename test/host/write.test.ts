import { spawnSync } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { writeWhole } from '../../src/host/write.js';

const folder = () => mkdtempSync(join(tmpdir(), 'adder-write-'));
const modeOf = (path: string) => statSync(path).mode & 0o777;

test('a new file, and one that exists: its mode stays, a secret one is for its owner alone', () => {
  const root = folder();
  const path = join(root, 'deep/a.sh');
  writeWhole(path, 'one', { root });
  expect([readFileSync(path, 'utf8'), modeOf(path)]).toEqual(['one', 0o644]);
  chmodSync(path, 0o755);
  writeWhole(path, Buffer.from([0xff, 0]), { root, mode: 0o600 });
  expect([...readFileSync(path), modeOf(path)]).toEqual([0xff, 0, 0o755]);
  writeWhole(path, 'two', { root, isSecret: true });
  expect(modeOf(path)).toBe(0o600);
  // Directories made for the write alone are gone again.
  expect(readdirSync(root)).toEqual(['deep']);
});

test('a symlink stays, and what it points at is replaced', () => {
  const root = folder();
  writeFileSync(join(root, 'target'), 'one');
  symlinkSync('target', join(root, 'link'));
  writeWhole(join(root, 'link'), 'two', { root });
  expect([readFileSync(join(root, 'target'), 'utf8'), readdirSync(root).sort()]).toEqual(['two', ['link', 'target']]);
});

test('writes to pipes and devices, refuses a directory', () => {
  const root = folder();
  const pipe = join(root, 'pipe');
  spawnSync('mkfifo', [pipe]);
  const reader = spawnSync('sh', [
    '-c',
    `cat '${pipe}' > '${root}/out' & exec node -e "require('fs').writeFileSync('${pipe}', 'x')"; wait`,
  ]);
  expect(reader.status).toBe(0);
  writeWhole('/dev/null', 'x', { root });
  expect(statSync('/dev/null').isCharacterDevice()).toBe(true);
  mkdirSync(join(root, 'folder'));
  expect(() => writeWhole(join(root, 'folder'), 'x', { root })).toThrow('is a directory');
});

test('temporary files are in the directory that ignores itself, and those of killed processes are removed', () => {
  const root = folder();
  const temporary = join(root, '.adder/tmp');
  mkdirSync(temporary, { recursive: true });
  const here =
    hostname()
      .replace(/[^A-Za-z0-9]/g, '')
      .slice(0, 40) || 'host';
  writeFileSync(join(temporary, `999999999-${here}-x-.env`), 'left over');
  writeFileSync(join(temporary, `${process.ppid}-${here}-x-.env`), 'in use');
  writeFileSync(join(temporary, '999999999-elsewhere-x-.env'), 'of another container');
  writeWhole(join(root, '.env'), 'x', { root });
  expect(readdirSync(temporary).sort()).toEqual(
    [`${process.ppid}-${here}-x-.env`, '999999999-elsewhere-x-.env'].sort(),
  );
  expect(readFileSync(join(root, '.adder/.gitignore'), 'utf8')).toContain('\n*\n');
});

test('a write that fails leaves the old file and nothing else', () => {
  const root = folder();
  writeFileSync(join(root, 'file'), 'old');
  expect(() => writeWhole(join(root, 'file', 'below'), 'x', { root })).toThrow();
  expect(readFileSync(join(root, 'file'), 'utf8')).toBe('old');
  expect(existsSync(join(root, '.adder'))).toBe(false);
});
