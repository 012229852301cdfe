import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { gzipSync } from 'node:zlib';
import { expect, test } from 'vitest';
import { byteStrings } from '../../src/core/needles/byte-strings.js';
import type { ScannedTask, ScanOrder } from '../../src/host/scan-worker.js';
import { ferryProject, program, TestProject } from '../support/adder.js';
import { fileList } from '../support/file-list.js';

/** A thread that cannot start is not an error: the search is only slower. So this test starts one alone. */
test('the thread that ships finds what it is asked for, and takes each task once', async () => {
  const project = ferryProject({ 'dist/a.js': 'x made-up-key', 'dist/b.js': 'x', 'dist/c.map': '{}' });
  const stretch = { from: 0, to: Number.POSITIVE_INFINITY };
  const order: ScanOrder = {
    marks: byteStrings([Buffer.from('made-up-key'), Buffer.from('another-one')]),
    runs: undefined,
    windows: undefined,
    kinds: ['value', 'value'],
    files: fileList([
      ...['a.js', 'b.js', 'c.map'].map((name) => project.path(`dist/${name}`)),
      project.path('gone.js'),
    ]),
    tasks: [0, 1, 2].map((first) => ({ files: [first, first === 2 ? 4 : first + 1], ...stretch })),
    taken: new Int32Array(new SharedArrayBuffer(4)),
  };
  order.taken[0] = 1;
  const worker = new Worker(join(program, '../scan-worker.cjs'));
  worker.postMessage(order);
  const scanned: ScannedTask[] = [];
  worker.on('message', (one) => scanned.push(one));
  expect(await new Promise((resolve, reject) => worker.on('error', reject).on('exit', resolve))).toBe(0);
  expect(
    scanned.map(({ task, batch: { bytes, versions } }) => [task, [...bytes], versions.map((at) => at && 1)]),
  ).toEqual([
    [1, [1], Float64Array.of(1)],
    [2, [2, 0], Float64Array.of(1, Number.NaN)],
  ]);
  order.taken[0] = 0;
  const other = new Worker(join(program, '../scan-worker.cjs'));
  other.postMessage(order);
  const first = await new Promise<ScannedTask>((resolve) => other.once('message', resolve));
  expect(first.batch.more).toMatchObject([[0, { hits: [{ needle: 0, start: 2, end: 13 }] }, 'nothing']]);
});

interface Found {
  place: { path: string; inside: string[] };
}

/** Many files are scanned in rows, a few one by one, and threads take rows too: each way must give one report. */
test('one by one, in rows, and by threads, the same is found', () => {
  const secret = 'Zr2LmX9vTb4KdN8wYcQ7';
  const map = (text: string) => JSON.stringify({ version: 3, sources: ['a.ts'], sourcesContent: [text], mappings: '' });
  const scripts = Array.from({ length: 70 }, (_, index): [string, string] => [
    `dist/${index}.js`,
    index % 9 === 0 ? `const a${index}="${secret}";` : `const plain = ${index};`,
  ]);
  const files: Record<string, string | Uint8Array> = {
    ...Object.fromEntries(scripts),
    'dist/clean.js.map': map('f()'),
    'dist/small.js.map': map(`f('${secret}')`),
    // Threads scan it in stretches, and only a later one has a hit.
    'dist/large.js.map': map(`${'f(1);\n'.repeat(1_500_000)}g('${secret}')`),
    'dist/a.js.gz': gzipSync(`h('${secret}')`),
  };
  const project = new TestProject({
    'adder.yaml':
      'adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { web: { code: src, output: dist } }\nvariables: { FARE_KEY: server }\n',
    '.env': `FARE_KEY=${secret}\n`,
    ...files,
  });
  const found = (args: string[]) => {
    const { code, stdout } = project.adder(['inspect', '--stage', 'production', '--format', 'json', ...args]);
    expect(code).toBe(1);
    const { findings, coverage } = JSON.parse(stdout);
    const places = findings.map(({ place: { path, inside } }: Found) => [path, ...inside].join(' » '));
    return { places, coverage };
  };
  const inRows = found([]);
  expect(inRows.places.filter((place: string) => !/^dist\/\d+\.js$/.test(place)).sort()).toEqual([
    'dist/a.js.gz » a.js',
    'dist/large.js.map » a.ts',
    'dist/small.js.map » a.ts',
  ]);
  expect(inRows.places).toHaveLength(8 + 3);
  expect(inRows.coverage.files).toBe(74);
  expect(found(['--threads', '1'])).toEqual(inRows);
  expect(found(['--threads', '3'])).toEqual(inRows);
  const names = Object.keys(files);
  const oneByOne = [names.slice(0, 35), names.slice(35)].flatMap((some) => found(some).places);
  expect(oneByOne.sort()).toEqual([...inRows.places].sort());
});
