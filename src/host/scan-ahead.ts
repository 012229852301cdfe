import type { Holds, ScanAhead } from '../core/inspect/artifact.js';
import type { MarkTable } from '../core/inspect/mark-table.js';
import { emptyScan, joinScans, type Scan } from '../core/search/scan.js';
import { type Task, tasksOf } from '../core/search/tasks.js';
import { type FileList, longestOf, scanTask, type TaskScan } from './scan-files.js';
import type { ScanThreads } from './scan-threads.js';
import type { ScannedTask, ScanOrder } from './scan-worker.js';
import type { FoundFile } from './walk.js';

/** The scan of most files. */
const nothing = emptyScan();

/**
 * Scans many files in a row, before the turn of each, which costs little for a file without hits. Threads help while the main thread
 * works on hits. The results do not depend on which thread scans which file.
 */
export class ScanAheadOfTime {
  readonly #tasks: readonly Task[];
  readonly #files: FileList;
  /** Files that were not taken yet. */
  readonly #numbers: Map<string, number>;
  /** For each file: stretches left to scan, scanned bytes, and when its entry changed last. */
  readonly #left: Int32Array;
  readonly #bytes: Float64Array;
  readonly #versions: Float64Array;
  /** Scans of files that need a closer look, by the start of the stretch. */
  readonly #scans = new Map<number, Map<number, { scan: Scan; holds: Holds }>>();
  readonly #taken = new Int32Array(new SharedArrayBuffer(4));
  readonly #how: TaskScan;
  #unreportedBytes = 0;
  #wake: () => void = () => {};

  /**
   * @param files each once, in the order in which they will be taken
   * @param threads in addition to the main thread, if any
   */
  constructor(
    files: readonly FoundFile[],
    readonly table: Pick<MarkTable, 'marks' | 'kinds' | 'runs' | 'windows' | 'matcher'>,
    readonly threads: ScanThreads | undefined,
  ) {
    this.#files = {
      paths: files.map(({ path }) => path),
      bytes: Float64Array.from(files, ({ bytes }) => bytes),
      versions: Float64Array.from(files, ({ version }) => version),
    };
    this.#numbers = new Map(files.map(({ path }, number) => [path, number]));
    this.#tasks = tasksOf(this.#files.bytes);
    const longest = longestOf(table.marks, table.runs, table.windows);
    this.#how = { matcher: table.matcher, kinds: table.kinds, longest };
    this.#left = new Int32Array(files.length);
    this.#bytes = new Float64Array(files.length);
    this.#versions = new Float64Array(files.length);
    for (const { files: row } of this.#tasks) for (let file = row[0]; file < row[1]; file++) add(this.#left, file, 1);
    if (!threads) return;
    threads.onChange = () => this.#wake();
    const order = this.#order();
    for (const worker of threads.workers) {
      worker.on('message', (scanned: ScannedTask) => {
        this.#keep(scanned);
        this.#wake();
      });
      worker.postMessage(order);
    }
  }

  /**
   * Waits for the scan of a file, and scans others meanwhile.
   * @param isStopped gets the number of bytes scanned since its last call
   * @returns undefined if the caller has to read the file itself: it changed, or cannot be read
   */
  async take(path: string, isStopped: (bytes: number) => Promise<boolean>): Promise<ScanAhead | undefined> {
    const number = this.#numbers.get(path);
    if (number === undefined) return undefined;
    this.#numbers.delete(path);
    while (this.#left[number] !== 0) {
      const task = this.#next();
      if (task !== undefined) this.#keep({ task, batch: scanTask(this.#tasks[task] as Task, this.#files, this.#how) });
      else if (!this.threads || this.threads.isBroken) return undefined;
      else await new Promise<void>((resolve) => (this.#wake = resolve));
      const bytes = this.#unreportedBytes;
      this.#unreportedBytes = 0;
      if (await isStopped(bytes)) return undefined;
    }
    return this.#joined(number);
  }

  #next(): number | undefined {
    const task = Atomics.add(this.#taken, 0, 1);
    return task < this.#tasks.length ? task : undefined;
  }

  #keep({ task, batch: { bytes, versions, more } }: ScannedTask): void {
    const { files, from } = this.#tasks[task] as Task;
    const [first] = files;
    const [known, left, sums] = [this.#versions, this.#left, this.#bytes];
    for (let index = 0; index < bytes.length; index++) {
      const file = first + index;
      const count = bytes[index] as number;
      // A file that changed between two of its ranges must be scanned again.
      const isSame = known[file] === 0 || known[file] === versions[index];
      known[file] = isSame ? (versions[index] as number) : Number.NaN;
      add(sums, file, count);
      add(left, file, -1);
      this.#unreportedBytes += count;
    }
    for (const [index, scan, holds] of more) {
      const scans = this.#scans.get(first + index) ?? new Map();
      this.#scans.set(first + index, scans.set(from, { scan, holds }));
    }
  }

  #joined(file: number): ScanAhead | undefined {
    const version = this.#versions[file] as number;
    const bytes = this.#bytes[file] as number;
    if (!this.#scans.has(file))
      return Number.isNaN(version) ? undefined : { scan: { ...nothing, bytes }, version, holds: 'unknown' };
    const scans = [...(this.#scans.get(file) ?? [])].sort(([a], [b]) => a - b);
    this.#scans.delete(file);
    if (Number.isNaN(version)) return undefined;
    const scan = joinScans(scans.map(([, one]) => one.scan));
    scan.bytes = bytes;
    // The stretch from the beginning tells; one without hits is not kept.
    const [start, first] = scans[0] ?? [];
    return { scan, version, holds: start === 0 && first ? first.holds : 'unknown' };
  }

  #order(): ScanOrder {
    const { kinds, runs, windows } = this.table;
    const { bytes, starts } = this.table.marks;
    const shared = new Uint8Array(new SharedArrayBuffer(bytes.length));
    shared.set(bytes);
    return {
      marks: { bytes: shared, starts },
      kinds,
      runs,
      windows,
      files: this.#files,
      tasks: this.#tasks,
      taken: this.#taken,
    };
  }
}

function add(numbers: Int32Array | Float64Array, at: number, more: number): void {
  numbers[at] = (numbers[at] as number) + more;
}
