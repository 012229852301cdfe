import { readFileSync } from 'node:fs';
import { join, posix } from 'node:path';
import { globSync } from 'tinyglobby';
import { describe, expect, test } from 'vitest';
import { readsIn } from '../src/core/reads/index.js';
import { type Node, parseSyntax } from '../src/core/syntax/parse.js';
import { declarationOf } from '../src/core/syntax/scopes.js';
import { walk } from '../src/core/syntax/walk.js';
import { toolchains } from '../src/core/toolchains/index.js';
import { other } from '../src/core/toolchains/other.js';

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

/** Things that only the host may ask for: the time, the process, threads, and a bound on a regular expression. */
const ofHost = new Set(['process', 'performance', 'setTimeout', 'setInterval', 'fetch']);
// Only a package that is loaded at first use may use node:module.
const pureModules = [
  'node:module',
  'node:buffer',
  'node:crypto',
  'node:path',
  'node:stream',
  'node:stream/consumers',
  'node:zlib',
];

/** Uses of the host in a source text: names that the file does not declare, and modules. */
function usesOfHost(path: string): string[] {
  const text = readFileSync(join(root, path), 'utf8');
  const { program } = parseSyntax(text, 'ts');
  const found = readsIn(path, text)
    .imports.filter(({ specifier }) => specifier.startsWith('node:') && !pureModules.includes(specifier))
    .map(({ specifier }) => specifier);
  walk(program, (node, ancestors) => {
    const parent = ancestors.at(-1);
    const name = String(node.name);
    const isProperty = parent?.type === 'MemberExpression' && parent.property === node && !parent.computed;
    const isKey = /Property|Definition|Signature|Enum/.test(parent?.type ?? '') && parent?.key === node;
    if (node.type === 'Identifier' && ofHost.has(name) && !isProperty && !isKey && !declarationOf(name, ancestors))
      found.push(name);
    const callee = node.callee as Node | undefined;
    const isClock = callee?.type === 'MemberExpression' && /^Date\.now$/.test(text.slice(callee.start, callee.end));
    const isNow = node.type === 'NewExpression' && callee?.name === 'Date' && (node.arguments as Node[]).length === 0;
    if (isClock || isNow) found.push('the clock');
    return undefined;
  });
  return found;
}

describe('the core', () => {
  // The page of the HTML report runs in a browser.
  const core = sources.filter((path) => path.startsWith('src/core/') && !path.includes('/html/page'));

  test('has no clock, no process, no threads and no bounds of its own', () => {
    const wrong = core.flatMap((path) => usesOfHost(path).map((use) => `${path} uses ${use}`));
    expect(wrong).toEqual([]);
  });

  test('parses YAML in one way, because the library prints text of the file by default', () => {
    const parses = /import \{[^}]*\bparse\w*[^}]*\} from 'yaml'/;
    expect(sources.filter((path) => parses.test(readFileSync(join(root, path), 'utf8')))).toEqual([
      'src/core/text/yaml.ts',
    ]);
  });

  test('uses are found at all', () => {
    expect(usesOfHost('src/host/pattern.ts')).toContain('node:vm');
    expect(usesOfHost('src/host/work.ts')).toContain('the clock');
    expect(usesOfHost('src/cli/bin.ts')).toContain('process');
  });

  test('only printers, the plugin and the command line read what findings say', () => {
    const readers = /^src\/(core\/(report|words|library\.ts)|cli|plugin|project\/runtime\.ts)/;
    const wrong = [...imports].flatMap(([path, targets]) =>
      targets.includes('src/core/words/describe.ts') && !readers.test(path) ? [path] : [],
    );
    expect(wrong).toEqual([]);
  });
});

describe('a toolchain', () => {
  const words = new Set(Object.values(toolchains).flatMap(({ name, detect }) => [name, ...detect.packages]));
  // The word for any tool that Adder does not know.
  words.delete(other.name);
  const elsewhere = sources.filter((path) => !/^src\/(core\/toolchains|plugin|demo)\//.test(path));

  /** String literals that are the name of a tool or of its package. */
  const named = (text: string) => {
    const found: string[] = [];
    walk(parseSyntax(text, 'ts').program, (node) => {
      if (node.type === 'Literal' && words.has(String(node.value))) found.push(String(node.value));
      return undefined;
    });
    return found;
  };

  test('is named only in its own file', () => {
    const wrong = elsewhere.flatMap((path) =>
      named(readFileSync(join(root, path), 'utf8')).map((name) => `${path} names ${name}`),
    );
    expect(wrong).toEqual([]);
    expect(named("if (tool === 'vite' || has('@angular/core')) x = 'viteish';")).toEqual(['vite', '@angular/core']);
  });

  test('names a plugin that exists, or none', () => {
    const exported = Object.keys(JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')).exports);
    for (const { name, plugin } of Object.values(toolchains))
      if (plugin !== undefined) expect(exported, name).toContain(plugin.replace('adder', '.'));
  });
});
