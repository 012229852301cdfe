import { pipeline, Readable, type Transform } from 'node:stream';
import { wholeOf } from './format.js';

interface WholeOptions {
  chunkSize: number;
  maxOutputLength: number;
}

/** One way to compress bytes, as Node.js undoes it. */
export interface Codec {
  whole(bytes: Uint8Array, options: WholeOptions): Uint8Array;
  /** The same beside the main thread. */
  beside(bytes: Uint8Array, options: WholeOptions, done: (error: Error | null, whole: Uint8Array) => void): void;
  stream(options: { chunkSize: number; highWaterMark: number }): Transform;
}

/** Larger chunks make inflating faster, and so does inflating ahead while one is searched. */
const [CHUNK, AHEAD] = [256 * 1024, 2 ** 20];

/** Up to this size, all is inflated at once, which takes two thirds of the time that a stream does. */
const WHOLE = 2 * 2 ** 20;
export const WHOLE_INFLATED = 8 * 2 ** 20;

/** Smaller members are not inflated beside the main thread: they take longer to hand over. */
const LEAST_BESIDE = 16 * 1024;

/** How much larger texts are than what they are compressed to: usually, where nothing says so, and at most with deflate. */
const [USUAL_RATIO, MOST_RATIO] = [5, 1032];

/** Compressed bytes, and what they are when they are not. */
export class Compressed {
  #beside: Promise<Uint8Array | undefined> | undefined;

  /**
   * @param bytes in pieces, as often as needed @param size of them
   * @param inflatedSize as somebody says; wrong ones cost only time
   */
  constructor(
    readonly bytes: () => AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
    readonly size: number,
    readonly codec: Codec,
    readonly inflatedSize = USUAL_RATIO * size,
  ) {}

  /** Starts to inflate what will be asked for next, if that is worth it. */
  begin(): void {
    if (this.#fits && this.size >= LEAST_BESIDE) this.#beside ??= this.#inflateBeside();
  }

  get #fits(): boolean {
    return this.size <= WHOLE && this.inflatedSize <= WHOLE_INFLATED;
  }

  /** @throws if they are damaged, after what precedes the damage */
  async *chunks(): AsyncIterable<Uint8Array> {
    const whole = (await this.#takeBeside()) ?? (this.#fits ? await this.#atOnce() : undefined);
    if (!whole) yield* this.#stream();
    else if (whole.length > 0) yield whole;
  }

  /** Hands the result out once: a later caller inflates again, so that the memory is free until then. */
  #takeBeside(): Promise<Uint8Array | undefined> | undefined {
    const beside = this.#beside;
    this.#beside = undefined;
    return beside;
  }

  async #inflateBeside(): Promise<Uint8Array | undefined> {
    try {
      const bytes = await wholeOf(this.bytes());
      return await new Promise((resolve) => {
        this.codec.beside(bytes, this.#options, (error, whole) => resolve(error ? undefined : whole));
      });
    } catch {
      return undefined;
    }
  }

  /** @returns undefined if that is too much, or something is damaged: as a stream there is a beginning of it */
  async #atOnce(): Promise<Uint8Array | undefined> {
    const bytes = await wholeOf(this.bytes());
    try {
      return this.codec.whole(bytes, this.#options);
    } catch {
      return undefined;
    }
  }

  /** One chunk for everything, because those of the usual size would have to be joined. */
  get #options(): WholeOptions {
    const chunkSize = 1024 + Math.min(this.inflatedSize, MOST_RATIO * this.size, WHOLE_INFLATED);
    return { chunkSize, maxOutputLength: WHOLE_INFLATED };
  }

  #stream(): AsyncIterable<Uint8Array> {
    const transform = this.codec.stream({ chunkSize: CHUNK, highWaterMark: AHEAD });
    pipeline(Readable.from(this.bytes(), { objectMode: false }), transform, () => {
      // The reader of the output gets the error.
    });
    return transform;
  }
}
