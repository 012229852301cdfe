import { readFileSync } from 'node:fs';
import { join, posix } from 'node:path';
import { globSync } from 'tinyglobby';
import { describe, expect, test } from 'vitest';
import { readsIn } from '../src/core/reads/index.js';

const root = join(import.meta.dirname, '..');

/** The directories in data-flow order, as ARCHITECTURE.md has them. Each imports only from those before it. */
const order = readFileSync(join(root, 'ARCHITECTURE.md'), 'utf8')
  .split('\n')
  .flatMap((line) => /^\| `([\w/]+)` \|/.exec(line)?.[1] ?? []);

const sources = globSync('src/**/*.{ts,mts}', {
  cwd: root,
  ignore: ['src/demo/*/**', 'src/core/search/kernel/assembly/**'],
}).map((path) => path.replaceAll('\\', '/'));

/** `core/search` for `src/core/search/scan.ts`; the root files of `core` and `src` are the library and the version. */
function folderOf(path: string): string {
  const [, first = '', second = '', third] = path.split('/');
  if (first !== 'core') return second === '' ? '' : first;
  return third === undefined ? 'core' : `core/${second}`;
}

const imports = new Map(
  sources.map((path) => {
    const text = readFileSync(join(root, path), 'utf8');
    const relative = readsIn(path, text).imports.filter(({ specifier }) => specifier.startsWith('.'));
    const targets = relative.map(({ specifier }) => posix.join(posix.dirname(path), specifier).replace(/\.js$/, '.ts'));
    return [path, targets.filter((target) => sources.includes(target))] as const;
  }),
);

describe('the directories', () => {
  const folders = [...new Set(sources.map(folderOf))].filter((folder) => folder !== '' && folder !== 'core');

  test('are all in ARCHITECTURE.md, in one order', () => {
    expect([...folders].sort()).toEqual([...order].sort());
  });

  test.each(order)('%s imports only from folders before it', (folder) => {
    const wrong = [...imports].flatMap(([path, targets]) => {
      if (folderOf(path) !== folder) return [];
      const later = targets.filter((target) => order.indexOf(folderOf(target)) > order.indexOf(folder));
      return later.map((target) => `${path} imports ${target}`);
    });
    expect(wrong).toEqual([]);
  });
});

test('no file imports itself through others', () => {
  const done = new Set<string>();
  const cycles: string[] = [];
  const visit = (path: string, chain: readonly string[]) => {
    if (chain.includes(path)) cycles.push([...chain.slice(chain.indexOf(path)), path].join(' → '));
    if (done.has(path) || chain.includes(path)) return;
    for (const target of imports.get(path) ?? []) visit(target, [...chain, path]);
    done.add(path);
  };
  for (const path of sources) visit(path, []);
  expect(cycles).toEqual([]);
});

test('imports are found at all', () => {
  expect(imports.get('src/cli/main.ts')?.length).toBeGreaterThan(3);
});
