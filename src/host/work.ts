import { byteSize, count, grouped } from '../core/text/display.js';
import type { World } from './world.js';

/** Maximum time between yields to the event loop, time until progress is shown, and between its updates. */
const [TURN_MS, SHOWN_AFTER_MS, FRAME_MS] = [50, 500, 100];

/** Progress of long work, as it is shown. */
export interface Progress {
  /** Number of things begun, and of all. */
  begun: number;
  total: number;
  /** Bytes read, which include those of embedded files. */
  read: number;
  /** Bytes of things that are done, and of all. */
  done: number;
  size: number;
  seconds: number;
}

/** With less than this done, an estimate of the remaining time is a guess. */
const LEAST_KNOWN = 0.03;

/**
 * How far work is, as one line: count, bytes, rate and remaining time.
 * @param what the unit of work, such as `file`
 */
export function progressText(what: string, { begun, total, read, done, size, seconds }: Progress): string {
  const rate = seconds > 0 ? `, ${byteSize(Math.round(read / seconds))}/s` : '';
  const part = size > 0 ? done / size : 0;
  const left = part >= LEAST_KNOWN && part <= 1 ? `, about ${duration((seconds * (1 - part)) / part)} left` : '';
  return `${grouped(begun)} of ${count(total, what)}, ${byteSize(read)}${rate}${left}`;
}

/** `8 s`, `3 min`, `2 h`. */
function duration(seconds: number): string {
  if (seconds < 60) return `${Math.max(1, Math.round(seconds))} s`;
  return seconds < 3600 ? `${Math.round(seconds / 60)} min` : `${Math.round(seconds / 3600)} h`;
}

/**
 * Long work that can be stopped: after the first Ctrl-C, what is known so far is reported; the second one ends the process.
 * On a terminal it shows how far it is.
 */
export class Work {
  #isStopped = false;
  readonly #started = Date.now();
  #turned = Date.now();
  #drawn = Date.now() + SHOWN_AFTER_MS - FRAME_MS;
  #isShown = false;
  #begun = 0;
  #read = 0;
  /** Bytes of the things that are done, and of the one that is not. */
  #done = 0;
  #current = 0;
  readonly #stop = (): void => {
    this.#isStopped = true;
  };

  /** @param what the unit of work, such as `file` @param total the number of units @param size their bytes together */
  constructor(
    readonly world: Pick<World, 'stderr'>,
    readonly what: string,
    public total: number,
    readonly size: number,
  ) {
    process.once('SIGINT', this.#stop);
  }

  get isStopped(): boolean {
    return this.#isStopped;
  }

  /**
   * Called often: lets signals in, and shows how far the work is.
   * @param bytes the bytes read since the last call
   * @returns whether it is to stop
   */
  async turn(bytes: number): Promise<boolean> {
    this.#read += bytes;
    const now = Date.now();
    if (now - this.#turned < TURN_MS) return this.#isStopped;
    await new Promise(setImmediate);
    this.#turned = Date.now();
    this.#draw(now);
    return this.#isStopped;
  }

  /** The next thing begins, and the one before is done. */
  begin(bytes: number): void {
    this.#done += this.#current;
    this.#current = bytes;
    this.#begun++;
  }

  end(): void {
    process.removeListener('SIGINT', this.#stop);
    if (this.#isShown) this.world.stderr.pass('\r\x1b[K');
  }

  #draw(now: number): void {
    const { stderr } = this.world;
    if (!stderr.isTerminal || now - this.#drawn < FRAME_MS) return;
    this.#drawn = now;
    this.#isShown = true;
    const text = progressText(this.what, {
      begun: this.#begun,
      total: this.total,
      read: this.#read,
      done: this.#done,
      size: this.size,
      seconds: (now - this.#started) / 1000,
    });
    // A line that wraps could not be replaced.
    stderr.pass(`\r\x1b[K${`adder: ${text}`.slice(0, (stderr.columns ?? 80) - 1)}`);
  }
}
