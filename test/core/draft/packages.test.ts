import { describe, expect, test } from 'vitest';
import { nativeCopies } from '../../../src/core/draft/native-copies.js';
import { startedServer } from '../../../src/core/draft/started-server.js';
import { packageEntries } from '../../../src/core/files/package-entry.js';

describe('the server that a package starts', () => {
  const listening = 'createServer(answer).listen(4180);';
  const started = (script: string, files: Record<string, string>, name = 'start') =>
    startedServer(
      { folder: 'quay/', name: 'quay', isDart: false, scripts: { [name]: script }, dependencies: [] },
      (path) => files[path],
    );

  test.each<[script: string, file: string, found: string | undefined]>([
    ['node server', 'quay/server.js', 'quay/server.js'],
    ['node ./server/index.mjs', 'quay/server/index.mjs', 'quay/server/index.mjs'],
    ['node server', 'quay/server/index.js', 'quay/server/index.js'],
    ['NODE_ENV=production node --enable-source-maps server.ts', 'quay/server.ts', 'quay/server.ts'],
    ['vite preview', 'quay/preview.js', undefined],
    ['node server', 'server.js', undefined],
  ])('%s, with %s', (script, file, found) => expect(started(script, { [file]: listening })).toBe(found));

  test('is one that listens, and that a script for starting names', () => {
    expect(started('node server', { 'quay/server.js': 'await build();' })).toBeUndefined();
    expect(started('node server', { 'quay/server.js': listening }, 'build')).toBeUndefined();
    expect(started('node server', { 'quay/server.js': listening }, 'dev')).toBe('quay/server.js');
  });
});

test.each<[manifest: string, entries: string[]]>([
  ['{ "main": "./dist/index.js" }', ['dist/index.js']],
  [
    '{ "module": "lib/a.mjs", "exports": { ".": { "import": "./lib/a.mjs" }, "./b": "./lib/b.js" } }',
    ['lib/a.mjs', 'lib/a.mjs', 'lib/b.js'],
  ],
  ['{ "exports": ["./a.js", { "default": "./b.js" }] }', ['./a.js', './b.js'].map((path) => path.slice(2))],
  ['{ "name": "quay" }', []],
  ['{', []],
])('entries of %s', (manifest, entries) => expect(packageEntries(manifest)).toEqual(entries));

test('copies of web files are those of the native projects that exist', () => {
  expect(nativeCopies('', (path) => path === 'android')).toEqual(['android/app/src/main/assets/public']);
  expect(nativeCopies('app/', (path) => path === 'app/ios')).toEqual(['app/ios/App/App/public']);
  expect(nativeCopies('', () => false)).toEqual([]);
});
