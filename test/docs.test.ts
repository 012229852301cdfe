import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { forms } from '../src/core/forms/index.js';
import { printerNames } from '../src/core/report/printers.js';
import { toolchains } from '../src/core/toolchains/index.js';
import { opaque } from '../src/core/unpack/formats/opaque.js';
import { unopened } from '../src/core/unpack/formats/unreadable.js';
import { formats } from '../src/core/unpack/index.js';

const root = join(import.meta.dirname, '..');
const page = (path: string) => readFileSync(join(root, path), 'utf8');

/** The rows of the table below a line, each as its cells. */
function rowsBelow(path: string, header: string): string[][] {
  const [, below = ''] = page(path).split(`\n${header}\n| `);
  const lines = below.split('\n').slice(1);
  const end = lines.findIndex((line) => !line.startsWith('|'));
  return lines.slice(0, end).map((line) =>
    line
      .split('|')
      .slice(1, -1)
      .map((cell) => cell.trim()),
  );
}

const coded = (cell = '') => [...cell.matchAll(/`([\w-]+)`/g)].map(([, name = '']) => name);
const sorted = (names: Iterable<string>) => [...new Set(names)].sort();

test('the toolchains of docs/contract.md are those of the table', () => {
  const row = rowsBelow('docs/contract.md', '| key | meaning | default |').find(([key]) => key === '`toolchain`');
  expect(sorted(coded(row?.[1]))).toEqual(sorted([...Object.keys(toolchains), 'other']));
});

test('the forms of docs/contract.md are those of the table', () => {
  const rows = rowsBelow('docs/contract.md', '| form | a valid value |');
  const named = rows.flatMap(([cell = '']) => [...coded(cell), ...(cell.startsWith('`{ choice') ? ['choice'] : [])]);
  expect(sorted(named)).toEqual(sorted([...Object.keys(forms), 'choice']));
});

test('the report formats of docs/reports.md are those of the table', () => {
  const rows = rowsBelow('docs/reports.md', '| format | for |');
  expect(rows.flatMap(([cell]) => coded(cell))).toEqual(expect.arrayContaining([...printerNames]));
  expect(rows).toHaveLength(printerNames.length);
});

test('the containers of docs/inspect.md are those of the table', () => {
  const cells = rowsBelow('docs/inspect.md', '| format | notes |').map(([cell = '']) => cell);
  // Notes in brackets, and what is no format of its own: data: URIs are found in text.
  const named = cells.flatMap((cell) =>
    cell
      .replace(/ \([^)]*\)/g, '')
      .replace('maps', 'map')
      .split(', '),
  );
  const opened = formats.filter((one) => !unopened.includes(one) && one !== opaque).map(({ name }) => name);
  expect(sorted(named)).toEqual(sorted([...opened, 'base64 data: URIs']));
});

test('the containers that docs/inspect.md says are not unpacked are those of the table', () => {
  const [, text = ''] = /\n\n(XZ,[^.]*?) are recognised but not\s+unpacked/.exec(page('docs/inspect.md')) ?? [];
  const named = text.split(/,\s+|\s+and\s+/).map((name) => name.toLowerCase());
  const own = unopened.map(({ name }) => name).filter((name) => !name.startsWith('encrypted'));
  expect(sorted(named)).toEqual(sorted(own));
});

test.each(['ARCHITECTURE.md', 'CONTRIBUTING.md'])('every path in %s exists', (path) => {
  const paths = [
    ...page(path).matchAll(/`((?:src|core|host|project|cli|test|scripts|docs|bench)\/[\w./-]*)`/g),
  ].flatMap(([, one = '']) => (one.includes('NAME') ? [] : [one]));
  const missing = paths.filter((one) => !existsSync(join(root, one)) && !existsSync(join(root, 'src', one)));
  expect(missing).toEqual([]);
  expect(paths.length).toBeGreaterThan(10);
});
