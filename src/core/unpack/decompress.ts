import { pipeline, Readable, type Transform } from 'node:stream';
import { wholeOf } from './format.js';

/** One way to compress bytes, as Node.js undoes it. */
export interface Codec {
  whole(bytes: Uint8Array, options: { maxOutputLength: number }): Uint8Array;
  stream(options: { chunkSize: number; highWaterMark: number }): Transform;
}

/** Larger chunks make inflating faster, and so does inflating ahead while one is searched. */
const [CHUNK, AHEAD] = [256 * 1024, 2 ** 20];

/** What is small is inflated at once: a stream takes longer to set up than such a member to inflate. */
const [SMALL, SMALL_INFLATED] = [256 * 1024, 4 * 2 ** 20];

/**
 * @param compressed bytes, as often as needed @param size of them
 * @throws if they are damaged, after what precedes the damage
 */
export async function* decompressed(
  compressed: () => AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  size: number,
  codec: Codec,
): AsyncIterable<Uint8Array> {
  const whole = size <= SMALL ? await atOnce(compressed(), codec) : undefined;
  if (whole) {
    if (whole.length > 0) yield whole;
    return;
  }
  const transform = codec.stream({ chunkSize: CHUNK, highWaterMark: AHEAD });
  pipeline(Readable.from(compressed(), { objectMode: false }), transform, () => {
    // The reader of the output gets the error.
  });
  yield* transform;
}

/** @returns undefined if that is too much, or something is damaged: as a stream there is a beginning of it */
async function atOnce(
  compressed: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  codec: Codec,
): Promise<Uint8Array | undefined> {
  const bytes = await wholeOf(compressed);
  try {
    return codec.whole(bytes, { maxOutputLength: SMALL_INFLATED });
  } catch {
    return undefined;
  }
}
