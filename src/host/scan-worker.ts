// A thread that scans files: it gets an order, and takes the next task until none is left.
import { parentPort } from 'node:worker_threads';
import { matcherFor } from '../core/search/matcher-for.js';
import type { Runs } from '../core/search/runs.js';
import type { Task } from '../core/search/tasks.js';
import { type Batch, longestOf, scanTask } from './scan-files.js';

/** What a thread gets. `marks` contains secrets: it is shared memory, and is never written anywhere. */
export interface ScanOrder {
  /** All marks, one after the other. */
  marks: Uint8Array;
  lengths: Uint32Array;
  kinds: readonly string[];
  runs: Runs | undefined;
  paths: readonly string[];
  tasks: readonly Task[];
  /** Number of tasks taken by all threads. */
  taken: Int32Array;
}

/** What a thread returns for each task. */
export interface ScannedTask {
  task: number;
  batch: Batch;
}

parentPort?.once('message', ({ marks, lengths, kinds, runs, paths, tasks, taken }: ScanOrder) => {
  let at = 0;
  const all = Array.from(lengths, (length) => {
    at += length;
    return marks.subarray(at - length, at);
  });
  const longest = longestOf(
    all.map((bytes) => ({ bytes })),
    runs,
  );
  const how = { matcher: matcherFor(all, undefined, runs), kinds, longest };
  for (let task = Atomics.add(taken, 0, 1); task < tasks.length; task = Atomics.add(taken, 0, 1)) {
    const scanned: ScannedTask = { task, batch: scanTask(tasks[task] as Task, paths, how) };
    parentPort?.postMessage(scanned);
  }
});
