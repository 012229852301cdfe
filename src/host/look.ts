import { emptyLook, type FirstLook, feedLook, type Kinds, recorder, settled } from '../core/search/first-look.js';
import type { Matcher } from '../core/search/matcher.js';
import type { Task } from '../core/search/tasks.js';
import { glimpseOf } from '../core/unpack/format.js';
import { formatOf } from '../core/unpack/index.js';
import { FileSource } from './files.js';

/** What first looks at the files of a task gave. Of most files there is nothing to tell but two numbers. */
export interface Batch {
  /** Bytes of each file that were looked at. */
  bytes: Float64Array;
  /** When each was written to last, in milliseconds; NaN where it was while it was read, or where it cannot be read. */
  written: Float64Array;
  /** Those that have to be looked at again, by their places in the task. */
  more: [index: number, look: FirstLook, isContainer: boolean][];
}

/**
 * Looks at the files of a task.
 * @param longest bytes of the longest needle: so much is read behind a stretch
 */
export function lookAtTask(
  { files: [first, end], from, to }: Task,
  paths: readonly string[],
  matcher: Matcher,
  kinds: Kinds,
  longest: number,
): Batch {
  const batch: Batch = { bytes: new Float64Array(end - first), written: new Float64Array(end - first), more: [] };
  for (let index = 0; index < end - first; index++) {
    const path = paths[first + index] as string;
    try {
      const source = new FileSource(path);
      try {
        const look = lookAtStretch(source, from, to, matcher, kinds, longest);
        const format = from === 0 ? formatOf(glimpseOf(source), path) : undefined;
        const isContainer = format !== undefined && !format.isText;
        batch.bytes[index] = look.bytes;
        batch.written[index] = source.hasChanged ? Number.NaN : source.written;
        if (isContainer || !look.isDull || look.marks.length > 0) batch.more.push([index, look, isContainer]);
      } finally {
        source.close();
      }
    } catch {
      // Whoever asks for the file meets the error again, and tells it.
      batch.written[index] = Number.NaN;
    }
  }
  return batch;
}

function lookAtStretch(
  source: FileSource,
  from: number,
  to: number,
  matcher: Matcher,
  kinds: Kinds,
  longest: number,
): FirstLook {
  const look = emptyLook();
  const record = recorder(look, kinds);
  matcher.start();
  const until = to + longest - 1;
  for (let at = from; at < until; ) {
    const room = matcher.window.subarray(0, Math.min(matcher.window.length, until - at));
    const length = source.readInto(room, at);
    if (length === 0) break;
    feedLook(look, matcher, length, at, (needle, start, end) => {
      if (from + start < to) record(needle, from + start, from + end);
    });
    at += length;
    look.bytes = Math.min(at, to) - from;
  }
  return settled(look);
}
