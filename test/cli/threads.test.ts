import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { expect, test } from 'vitest';
import type { Looked, LookOrder } from '../../src/host/look-worker.js';
import { ferryProject, program } from '../support/adder.js';

/** A thread that cannot start is no error: the search goes on without it, only slower. So it is started here by itself. */
test('the thread that ships finds what it is asked for, and takes each task once', async () => {
  const project = ferryProject({ 'dist/a.js': 'x made-up-key', 'dist/b.js': 'x', 'dist/c.map': '{}' });
  const stretch = { from: 0, to: Number.POSITIVE_INFINITY };
  const order: LookOrder = {
    needles: Buffer.from('made-up-keyanother-one'),
    lengths: Uint32Array.of(11, 11),
    kinds: { needles: 2, marks: 0 },
    paths: ['a.js', 'b.js', 'c.map', 'gone.js'].map((name) => project.path(`dist/${name}`)),
    tasks: [0, 1, 2].map((first) => ({ files: [first, first === 2 ? 4 : first + 1], ...stretch })),
    taken: new Int32Array(new SharedArrayBuffer(4)),
  };
  order.taken[0] = 1;
  const worker = new Worker(join(program, '../look-worker.cjs'));
  worker.postMessage(order);
  const looked: Looked[] = [];
  worker.on('message', (one) => looked.push(one));
  expect(await new Promise((resolve, reject) => worker.on('error', reject).on('exit', resolve))).toBe(0);
  expect(looked.map(({ task, batch: { bytes, written } }) => [task, [...bytes], written.map((at) => at && 1)])).toEqual(
    [
      [1, [1], Float64Array.of(1)],
      [2, [2, 0], Float64Array.of(1, Number.NaN)],
    ],
  );
  order.taken[0] = 0;
  const other = new Worker(join(program, '../look-worker.cjs'));
  other.postMessage(order);
  const first = await new Promise<Looked>((resolve) => other.once('message', resolve));
  expect(first.batch.more).toMatchObject([[0, { hits: [{ needle: 0, start: 2, end: 13 }] }, false]]);
});
