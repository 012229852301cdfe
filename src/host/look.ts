import { emptyLook, type FirstLook, type Kinds, recorder } from '../core/search/first-look.js';
import type { Matcher } from '../core/search/matcher.js';
import type { Task } from '../core/search/tasks.js';
import { HEAD_BYTES } from '../core/unpack/format.js';
import { formatOf } from '../core/unpack/index.js';
import { FileSource } from './files.js';

/** What a first look at a stretch of a file gave; undefined where the file cannot be read. */
export interface Stretch {
  look: FirstLook;
  /** When the file was written to last; NaN where it was while it was read. */
  written: number;
  isContainer: boolean;
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
): (Stretch | undefined)[] {
  return paths.slice(first, end).map((path) => {
    try {
      return lookAtStretch(path, from, to, matcher, kinds, longest);
    } catch {
      // Whoever asks for the file meets the error again, and tells it.
      return undefined;
    }
  });
}

function lookAtStretch(
  path: string,
  from: number,
  to: number,
  matcher: Matcher,
  kinds: Kinds,
  longest: number,
): Stretch {
  const source = new FileSource(path);
  try {
    const look = emptyLook();
    const record = recorder(look, kinds);
    matcher.start();
    const until = to + longest - 1;
    for (let at = from; at < until; ) {
      const room = matcher.window.subarray(0, Math.min(matcher.window.length, until - at));
      const length = source.readInto(room, at);
      if (length === 0) break;
      matcher.feed(length, (needle, start, end) => {
        if (from + start < to) record(needle, from + start, from + end);
      });
      at += length;
      look.bytes = Math.min(at, to) - from;
    }
    const format = from === 0 ? formatOf(source.read(0, HEAD_BYTES), path) : undefined;
    return {
      look,
      written: source.hasChanged ? Number.NaN : source.written,
      isContainer: format !== undefined && !format.isText,
    };
  } finally {
    source.close();
  }
}
