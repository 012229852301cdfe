import { mkdirSync, mkdtempSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, posix, win32 } from 'node:path';
import { expect, test } from 'vitest';
import { Files } from '../../src/host/files.js';
import { filesNamed, findFiles, givenPath, type NotRead } from '../../src/host/walk.js';
import { MemoryFiles } from '../support/memory-files.js';

/** Files in memory. One file or directory is removed right after it is listed, as another process could do. */
function vanishing(content: Record<string, string>, name: string): Files {
  const files = new MemoryFiles(content);
  const { readdirSync } = files.fs;
  const list = (path: string, options: never) => {
    const names = readdirSync(path, options);
    for (const one of files.nodes.keys()) {
      if (path === files.path.dirname(name) && `${one}/`.startsWith(`${name}/`)) files.nodes.delete(one);
    }
    return names;
  };
  Object.assign(files.fs, { readdirSync: list });
  return files;
}

const project = { '/p/.env': 'A=1', '/p/.adder/tmp/.env': 'A=2', '/p/dist/a.js': '1', '/p/dist/deep/b.js': '2' };
const isEnv = (name: string) => name === '.env';

test('a project directory that vanishes during the walk is not reported', () => {
  const unread: NotRead[] = [];
  const find = (files: Files, directory = '/p') =>
    filesNamed(files, directory, isEnv, () => false, { onUnread: (one) => unread.push(one) }).sort();
  expect(find(new MemoryFiles(project))).toEqual(['.adder/tmp/.env', '.env']);
  expect(find(vanishing(project, '/p/.adder/tmp'))).toEqual(['.env']);
  expect(unread).toEqual([]);
  expect(find(new MemoryFiles(project), '/p/src')).toEqual([]);
  expect(unread).toEqual([{ path: '/p/src', because: 'does not exist' }]);
});

test.each(['/p/dist/deep', '/p/dist/a.js'])('%s vanishes during an inspection: the artifact is incomplete', (path) => {
  const found = findFiles(vanishing(project, path), ['/p/dist']);
  expect(found.unread).toEqual([{ path, because: 'was removed during the inspection' }]);
});

test('of all symlinks only those to files count, unless they are excluded', () => {
  const root = mkdtempSync(join(tmpdir(), 'adder-walk-'));
  mkdirSync(join(root, 'public'));
  writeFileSync(join(root, '.env'), '');
  symlinkSync('../.env', join(root, 'public/.env'));
  symlinkSync('..', join(root, 'public/loop'));
  for (const [name, target] of [
    ['a', 'gone'],
    ['b', 'b'],
  ] as const) {
    mkdirSync(join(root, name));
    symlinkSync(target, join(root, name, '.env'));
  }
  const find = (withLinks?: boolean) =>
    filesNamed(new Files(), root, isEnv, () => false, { ...(withLinks !== undefined && { withLinks }) });
  expect(find()).toEqual(['.env', 'public/.env']);
  expect(find(false)).toEqual(['.env']);
});

test.runIf(process.platform === 'linux')('a file whose name is no text is named as such, and not as removed', () => {
  const root = mkdtempSync(join(tmpdir(), 'adder-walk-'));
  writeFileSync(Buffer.concat([Buffer.from(`${root}/`), Buffer.from([0xff, 0xfe]), Buffer.from('.js')]), 'x');
  const { files, unread } = findFiles(new Files(), [root]);
  expect([files.length, unread.map(({ because }) => because)]).toEqual([
    0,
    ['has a name that is not UTF-8, so it cannot be opened: rename it'],
  ]);
});

test.each<[path: string, onWindows: string]>([
  ['dist\\*.js', 'dist/*.js'],
  ['C:\\quay\\dist', 'C:/quay/dist'],
  ['\\\\?\\C:\\quay', 'C:/quay'],
  ['\\\\?\\UNC\\host\\share', '//host/share'],
  ['\\\\host\\share', '//host/share'],
  ['\\\\?\\Volume{1}\\a', '//?/Volume{1}/a'],
])('%s of a command line', (path, onWindows) => {
  expect(givenPath(path, win32)).toBe(onWindows);
  expect(givenPath(path, posix)).toBe(path);
});
