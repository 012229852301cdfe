// A thread that scans files: it gets an order, and takes the next task until none is left.
import { parentPort } from 'node:worker_threads';
import type { ByteStrings } from '../core/needles/byte-strings.js';
import { matcherFor } from '../core/search/matcher-for.js';
import type { Runs } from '../core/search/runs.js';
import type { Task } from '../core/search/tasks.js';
import type { ByteWindows } from '../core/search/windows/byte-windows.js';
import { type Batch, type FileList, longestOf, scanTask } from './scan-files.js';

/** Data for a thread. `marks` contains secrets: their bytes are shared memory, and are never written anywhere. */
export interface ScanOrder {
  marks: ByteStrings;
  kinds: readonly string[];
  runs: Runs | undefined;
  windows: ByteWindows | undefined;
  files: FileList;
  tasks: readonly Task[];
  /** Number of tasks taken by all threads. */
  taken: Int32Array;
}

/** Result of a thread for each task. */
export interface ScannedTask {
  task: number;
  batch: Batch;
}

parentPort?.once('message', ({ marks, kinds, runs, windows, files, tasks, taken }: ScanOrder) => {
  const matcher = matcherFor(marks, undefined, runs, undefined, windows);
  const how = { matcher, kinds, longest: longestOf(marks, runs, windows) };
  for (let task = Atomics.add(taken, 0, 1); task < tasks.length; task = Atomics.add(taken, 0, 1)) {
    const scanned: ScannedTask = { task, batch: scanTask(tasks[task] as Task, files, how) };
    parentPort?.postMessage(scanned);
  }
});
