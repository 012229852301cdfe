import { join } from 'node:path';
import { Worker } from 'node:worker_threads';

/** Threads for scanning. They can start before the marks are known: starting takes as long as scanning 100 MB. */
export class ScanThreads {
  readonly workers: readonly Worker[];
  /** True if a thread failed to start or died: its task is not done. */
  isBroken = false;
  onChange: () => void = () => {};

  constructor(count: number) {
    this.workers = Array.from({ length: count }, () => {
      const worker = new Worker(join(import.meta.dirname, 'scan-worker.cjs'), {
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
