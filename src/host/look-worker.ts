// A thread that looks at files: gets an order, and takes the next task until there is none.
import { parentPort } from 'node:worker_threads';
import type { Kinds } from '../core/search/first-look.js';
import { matcherFor } from '../core/search/matcher-for.js';
import type { Task } from '../core/search/tasks.js';
import { type Batch, lookAtTask } from './look.js';

/** What the thread gets. Values of build and server are in `needles`: shared memory, and nothing that is written anywhere. */
export interface LookOrder {
  /** One needle behind the other. */
  needles: Uint8Array;
  lengths: Uint32Array;
  kinds: Kinds;
  paths: readonly string[];
  tasks: readonly Task[];
  /** How many tasks were taken. */
  taken: Int32Array;
}

/** What it hands back. */
export interface Looked {
  task: number;
  batch: Batch;
}

parentPort?.once('message', ({ needles, lengths, kinds, paths, tasks, taken }: LookOrder) => {
  let at = 0;
  const all = Array.from(lengths, (length) => {
    at += length;
    return needles.subarray(at - length, at);
  });
  const matcher = matcherFor(all);
  const longest = lengths.reduce((most, length) => Math.max(most, length), 0);
  for (let task = Atomics.add(taken, 0, 1); task < tasks.length; task = Atomics.add(taken, 0, 1)) {
    const looked: Looked = { task, batch: lookAtTask(tasks[task] as Task, paths, matcher, kinds, longest) };
    parentPort?.postMessage(looked);
  }
});
