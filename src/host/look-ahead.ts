import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type FirstLook, joinLooks, type Kinds } from '../core/search/first-look.js';
import type { Matcher } from '../core/search/matcher.js';
import { type Task, tasksOf } from '../core/search/tasks.js';
import { lookAtTask, type Stretch } from './look.js';
import type { Looked, LookOrder } from './look-worker.js';

/** A file that was looked at before its turn. */
export interface Ahead {
  look: FirstLook;
  written: number;
  isContainer: boolean;
}

/** What is looked for: the matcher's needles, in its order. */
export interface Wanted {
  needles: readonly Uint8Array[];
  kinds: Kinds;
  /** For this thread's share of the work. */
  matcher: Matcher;
}

/**
 * Has threads look at files while this one goes through what was found. Whatever the number of threads, and whoever looked at what,
 * a file's look is the same.
 */
export class LookAhead {
  readonly #tasks: readonly Task[];
  readonly #paths: readonly string[];
  /** Of files that were not taken yet. */
  readonly #numbers: Map<string, number>;
  /** The stretches of each file, by their starts. */
  readonly #stretches = new Map<number, Map<number, Stretch | undefined>>();
  readonly #parts: number[];
  readonly #taken = new Int32Array(new SharedArrayBuffer(4));
  readonly #workers: Worker[];
  readonly #longest: number;
  #isBroken = false;
  #untold = 0;
  #woken: () => void = () => {};

  /** @param sizes of the files in the order in which they will be asked for @param others threads besides this one */
  constructor(
    sizes: ReadonlyMap<string, number>,
    readonly wanted: Wanted,
    others: number,
  ) {
    this.#paths = [...sizes.keys()];
    this.#numbers = new Map(this.#paths.map((path, number) => [path, number]));
    this.#tasks = tasksOf([...sizes.values()]);
    this.#longest = wanted.needles.reduce((most, { length }) => Math.max(most, length), 0);
    this.#parts = this.#paths.map(() => 0);
    for (const { files } of this.#tasks)
      for (let file = files[0]; file < files[1]; file++) this.#parts[file] = (this.#parts[file] as number) + 1;
    const workerData = this.#order();
    this.#workers = Array.from({ length: Math.min(others, this.#tasks.length) }, () => this.#start(workerData));
  }

  /**
   * @param onWork told how many bytes were looked at since it was told last; whether to stop
   * @returns undefined where the file has to be read by whoever asks: it changed, or cannot be read
   */
  async take(path: string, onWork: (bytes: number) => Promise<boolean>): Promise<Ahead | undefined> {
    const number = this.#numbers.get(path);
    if (number === undefined) return undefined;
    this.#numbers.delete(path);
    while (!this.#isComplete(number)) {
      const task = this.#next();
      if (task !== undefined) this.#work(task);
      else if (this.#isBroken) return undefined;
      else await new Promise<void>((resolve) => (this.#woken = resolve));
      const bytes = this.#untold;
      this.#untold = 0;
      if (await onWork(bytes)) return undefined;
    }
    const stretches = [...(this.#stretches.get(number) ?? [])].sort(([a], [b]) => a - b).map(([, one]) => one);
    this.#stretches.delete(number);
    return aheadOf(stretches);
  }

  async end(): Promise<void> {
    await Promise.all(this.#workers.map((worker) => worker.terminate()));
  }

  #next(): number | undefined {
    const task = Atomics.add(this.#taken, 0, 1);
    return task < this.#tasks.length ? task : undefined;
  }

  #work(task: number): void {
    const { kinds, matcher } = this.wanted;
    const stretches = lookAtTask(this.#tasks[task] as Task, this.#paths, matcher, kinds, this.#longest);
    this.#keep({ task, stretches });
  }

  #isComplete(number: number): boolean {
    return (this.#stretches.get(number)?.size ?? 0) === this.#parts[number];
  }

  #keep({ task, stretches }: Looked): void {
    const { files, from } = this.#tasks[task] as Task;
    stretches.forEach((stretch, index) => {
      const number = files[0] + index;
      this.#untold += stretch?.look.bytes ?? 0;
      const known = this.#stretches.get(number) ?? new Map();
      this.#stretches.set(number, known.set(from, stretch));
    });
  }

  #order(): LookOrder {
    const { needles, kinds } = this.wanted;
    const lengths = Uint32Array.from(needles, ({ length }) => length);
    const bytes = new Uint8Array(new SharedArrayBuffer(lengths.reduce((sum, length) => sum + length, 0)));
    let at = 0;
    for (const needle of needles) {
      bytes.set(needle, at);
      at += needle.length;
    }
    return { needles: bytes, lengths, kinds, paths: this.#paths, tasks: this.#tasks, taken: this.#taken };
  }

  #start(workerData: LookOrder): Worker {
    // It reads no environment, and gets no arguments.
    const worker = new Worker(join(import.meta.dirname, 'look-worker.cjs'), { workerData, env: {}, argv: [] });
    worker.on('message', (looked: Looked) => {
      this.#keep(looked);
      this.#woken();
    });
    worker.on('error', () => {
      this.#isBroken = true;
      this.#woken();
    });
    return worker;
  }
}

/** A file that was written to between two looks at it has to be looked at again. */
function aheadOf(stretches: readonly (Stretch | undefined)[]): Ahead | undefined {
  const [first] = stretches;
  if (!first || !stretches.every((one) => one?.written === first.written)) return undefined;
  return {
    look: joinLooks(stretches.flatMap((one) => (one ? [one.look] : []))),
    written: first.written,
    isContainer: first.isContainer,
  };
}
