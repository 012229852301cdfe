import { byteSize, count, grouped } from '../core/text/display.js';
import type { World } from './world.js';

/** So long is worked before the process looks at what has come meanwhile, and before anything is shown. */
const [TURN_MS, SHOWN_AFTER_MS, FRAME_MS] = [50, 1000, 100];

/**
 * Long work that can be stopped: after the first Ctrl-C, what is known so far is reported; the second one ends the process.
 * On a terminal it shows how far it is.
 */
export class Work {
  #isStopped = false;
  #turned = Date.now();
  #drawn = Date.now() + SHOWN_AFTER_MS - FRAME_MS;
  #isShown = false;
  #done = 0;
  #bytes = 0;
  readonly #stop = (): void => {
    this.#isStopped = true;
  };

  /** @param what the unit of work, such as `file` @param total the number of units */
  constructor(
    readonly world: Pick<World, 'stderr'>,
    readonly what: string,
    readonly total: number,
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
    this.#bytes += bytes;
    const now = Date.now();
    if (now - this.#turned < TURN_MS) return this.#isStopped;
    await new Promise(setImmediate);
    this.#turned = Date.now();
    this.#draw(now);
    return this.#isStopped;
  }

  /** One thing is done. */
  step(): void {
    this.#done++;
  }

  end(): void {
    process.removeListener('SIGINT', this.#stop);
    if (this.#isShown) this.world.stderr.pass('\r\x1b[K');
  }

  #draw(now: number): void {
    if (!this.world.stderr.isTerminal || now - this.#drawn < FRAME_MS) return;
    this.#drawn = now;
    this.#isShown = true;
    this.world.stderr.pass(
      `\r\x1b[Kadder: ${grouped(this.#done)} of ${count(this.total, this.what)}, ${byteSize(this.#bytes)}`,
    );
  }
}
