import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type FirstLook, joinLooks, type Kinds } from '../core/search/first-look.js';
import type { Matcher } from '../core/search/matcher.js';
import { type Task, tasksOf } from '../core/search/tasks.js';
import { lookAtTask } from './look.js';
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

/** Threads that look at files. They can be started before it is known what for: that takes as long as to look at 100 MB. */
export class LookThreads {
  readonly workers: readonly Worker[];
  /** Whether one of them could not start, or failed: what it had taken is done by nobody. */
  isBroken = false;
  onChange: () => void = () => {};

  constructor(count: number) {
    this.workers = Array.from({ length: count }, () => {
      const worker = new Worker(join(import.meta.dirname, 'look-worker.cjs'), {
        // It reads no environment, gets no arguments, and makes little garbage.
        env: {},
        argv: [],
        resourceLimits: { maxYoungGenerationSizeMb: 4 },
      });
      return worker.on('error', () => {
        this.isBroken = true;
        this.onChange();
      });
    });
  }

  async end(): Promise<void> {
    await Promise.all(this.workers.map((worker) => worker.terminate()));
  }
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
  /** Of each file: how many stretches are not looked at yet, how many bytes are, and when it was written to last. */
  readonly #left: Int32Array;
  readonly #bytes: Float64Array;
  readonly #written: Float64Array;
  /** Looks at files of which there is more to see, by their stretches' starts. */
  readonly #looks = new Map<number, Map<number, { look: FirstLook; isContainer: boolean }>>();
  readonly #taken = new Int32Array(new SharedArrayBuffer(4));
  readonly #longest: number;
  #untold = 0;
  #woken: () => void = () => {};

  /** @param sizes of the files in the order in which they will be asked for @param threads besides this one */
  constructor(
    sizes: ReadonlyMap<string, number>,
    readonly wanted: Wanted,
    readonly threads: LookThreads,
  ) {
    this.#paths = [...sizes.keys()];
    this.#numbers = new Map(this.#paths.map((path, number) => [path, number]));
    this.#tasks = tasksOf([...sizes.values()]);
    this.#longest = wanted.needles.reduce((most, { length }) => Math.max(most, length), 0);
    this.#left = new Int32Array(sizes.size);
    this.#bytes = new Float64Array(sizes.size);
    this.#written = new Float64Array(sizes.size);
    for (const { files } of this.#tasks) for (let file = files[0]; file < files[1]; file++) add(this.#left, file, 1);
    threads.onChange = () => this.#woken();
    const order = this.#order();
    for (const worker of threads.workers) {
      worker.on('message', (looked: Looked) => {
        this.#keep(looked);
        this.#woken();
      });
      worker.postMessage(order);
    }
  }

  /**
   * @param onWork told how many bytes were looked at since it was told last; whether to stop
   * @returns undefined where the file has to be read by whoever asks: it changed, or cannot be read
   */
  async take(path: string, onWork: (bytes: number) => Promise<boolean>): Promise<Ahead | undefined> {
    const number = this.#numbers.get(path);
    if (number === undefined) return undefined;
    this.#numbers.delete(path);
    while (this.#left[number] !== 0) {
      const task = this.#next();
      if (task !== undefined) this.#work(task);
      else if (this.threads.isBroken) return undefined;
      else await new Promise<void>((resolve) => (this.#woken = resolve));
      const bytes = this.#untold;
      this.#untold = 0;
      if (await onWork(bytes)) return undefined;
    }
    return this.#joined(number);
  }

  #next(): number | undefined {
    const task = Atomics.add(this.#taken, 0, 1);
    return task < this.#tasks.length ? task : undefined;
  }

  #work(task: number): void {
    const { kinds, matcher } = this.wanted;
    this.#keep({
      task,
      batch: lookAtTask(this.#tasks[task] as Task, this.#paths, matcher, kinds, this.#longest),
    });
  }

  #keep({ task, batch: { bytes, written, more } }: Looked): void {
    const { files, from } = this.#tasks[task] as Task;
    const [first] = files;
    bytes.forEach((count, index) => {
      const file = first + index;
      // A file that was written to between two looks at it has to be looked at again.
      const isSame = this.#written[file] === 0 || this.#written[file] === written[index];
      this.#written[file] = isSame ? (written[index] as number) : Number.NaN;
      add(this.#bytes, file, count);
      add(this.#left, file, -1);
      this.#untold += count;
    });
    for (const [index, look, isContainer] of more) {
      const looks = this.#looks.get(first + index) ?? new Map();
      this.#looks.set(first + index, looks.set(from, { look, isContainer }));
    }
  }

  #joined(file: number): Ahead | undefined {
    const written = this.#written[file] as number;
    const looks = [...(this.#looks.get(file) ?? [])].sort(([a], [b]) => a - b).map(([, one]) => one);
    this.#looks.delete(file);
    if (Number.isNaN(written)) return undefined;
    const look = joinLooks(looks.map((one) => one.look));
    look.bytes = this.#bytes[file] as number;
    return { look, written, isContainer: looks[0]?.isContainer === true };
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
}

function add(numbers: Int32Array | Float64Array, at: number, more: number): void {
  numbers[at] = (numbers[at] as number) + more;
}
