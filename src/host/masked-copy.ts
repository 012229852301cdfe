import { Transform, type TransformCallback, Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { MaskingStream } from '../core/mask/masking.js';
import type { MaskPlan } from '../core/mask/plan.js';

type Mask = Pick<MaskPlan, 'needles' | 'wrapped' | 'anchored' | 'printed'>;

/** Copies a stream with its secrets masked. @param end whether `to` ends with it */
export async function maskedCopy(
  from: NodeJS.ReadableStream,
  to: NodeJS.WritableStream,
  mask: Mask,
  end: boolean,
): Promise<void> {
  await pipeline(from, new MaskTransform(mask), end ? to : handingOn(to));
}

/** Wraps a shared stream, which must neither end nor collect listeners. */
function handingOn(to: NodeJS.WritableStream): Writable {
  return new Writable({
    write(chunk: Buffer, _encoding, done) {
      // An error (a closed pipe) ends the copy, so that the child gets it too.
      to.write(chunk, done);
    },
  });
}

/** How long the end of a line waits that may be the beginning of a value, as a question at a prompt can be. */
const WAIT_MS = 150;

/** Time that masking a chunk may take without letting signals in. */
const TURN_MS = 20;

class MaskTransform extends Transform {
  readonly #masking: MaskingStream;
  #waiting: NodeJS.Timeout | undefined;

  constructor({ needles, wrapped, anchored, printed }: Mask) {
    super();
    this.#masking = new MaskingStream(needles, wrapped, anchored, printed);
  }

  override _transform(chunk: Buffer, _encoding: BufferEncoding, done: TransformCallback): void {
    clearTimeout(this.#waiting);
    const begun = performance.now();
    const shown = this.#masking.push(chunk);
    this.#waiting = setTimeout(() => this.push(this.#masking.pause()), WAIT_MS).unref();
    // Without a pause, the platform reads up to 32 chunks before it lets a signal in.
    if (performance.now() - begun < TURN_MS) done(null, shown);
    else setImmediate(done, null, shown);
  }

  override _flush(done: TransformCallback): void {
    clearTimeout(this.#waiting);
    done(null, this.#masking.end());
  }
}
