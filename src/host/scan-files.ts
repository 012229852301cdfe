import type { Holds } from '../core/inspect/artifact.js';
import { type ByteStrings, extremesOf } from '../core/needles/byte-strings.js';
import type { Matcher } from '../core/search/matcher.js';
import { LONGEST_OPEN_RUN, type Runs } from '../core/search/runs.js';
import { type Scan, ScanRecorder, settled } from '../core/search/scan.js';
import type { Task } from '../core/search/tasks.js';
import { type ByteWindows, LONGEST_STRETCH } from '../core/search/windows/byte-windows.js';
import { glimpseOf, glimpseOfBytes } from '../core/unpack/format.js';
import { formatOf } from '../core/unpack/index.js';
import { type FileSource, Files } from './files.js';

/** Files by their numbers, as they were when they were found. */
export interface FileList {
  paths: readonly string[];
  /** Their sizes. */
  bytes: Float64Array;
  /** See {@link FileState}. */
  versions: Float64Array;
}

/** The scans of a task's files. Most files yield only two counters. */
export interface Batch {
  /** Scanned bytes of each file. */
  bytes: Float64Array;
  /** The version of each file; NaN if it is another one since it was found, or cannot be read. */
  versions: Float64Array;
  /** Files that need a closer look, by their index in the task. */
  more: [index: number, scan: Scan, holds: Holds][];
}

/** How a task's files are scanned. */
export interface TaskScan {
  matcher: Matcher;
  /** The kind of each mark. */
  kinds: readonly string[];
  /** Length of the longest mark: so many bytes are read beyond a stretch. */
  longest: number;
}

/** Scans the files of a task. A file without hits costs one open, one read and one close. */
export function scanTask({ files: [first, end], from, to }: Task, list: FileList, how: TaskScan): Batch {
  const files = new Files();
  const recorder = new ScanRecorder(how.kinds);
  const batch: Batch = { bytes: new Float64Array(end - first), versions: new Float64Array(end - first), more: [] };
  for (let index = 0; index < end - first; index++) {
    const path = list.paths[first + index] as string;
    const version = list.versions[first + index] as number;
    try {
      const source = files.open(path, { bytes: list.bytes[first + index] as number, version });
      try {
        const lastRead = scanStretch(source, { from, to }, how, recorder);
        const { scan } = recorder;
        // A file of a single read is still in memory.
        const isInMemory = scan.bytes === source.size && scan.bytes === lastRead;
        const glimpse = isInMemory ? glimpseOfBytes(how.matcher.window.subarray(0, lastRead)) : glimpseOf(source);
        const format = from === 0 ? formatOf(glimpse, path) : undefined;
        const holds = format === undefined ? 'nothing' : format.isText ? 'texts' : 'files';
        batch.bytes[index] = scan.bytes;
        const isOfInterest = holds === 'files' || scan.hits.length > 0 || scan.dataUris.length > 0;
        // A single read sees the file at one moment.
        const mayHaveChanged = isOfInterest || !isInMemory;
        batch.versions[index] = mayHaveChanged && source.hasChanged ? Number.NaN : version;
        if (isOfInterest) batch.more.push([index, recorder.take(), holds]);
      } finally {
        source.close();
      }
    } catch {
      // The main thread tries again, and reports the error.
      batch.versions[index] = Number.NaN;
    }
  }
  return batch;
}

/** @returns the number of bytes of the last read */
function scanStretch(
  source: FileSource,
  { from, to }: Pick<Task, 'from' | 'to'>,
  { matcher, longest }: TaskScan,
  recorder: ScanRecorder,
): number {
  recorder.restart();
  matcher.start();
  const { window } = matcher;
  const until = to + longest - 1;
  let lastRead = 0;
  for (let at = from; at < until; ) {
    const room = until - at < window.length ? window.subarray(0, until - at) : window;
    const length = source.readInto(room, at);
    if (length === 0) break;
    recorder.feed(matcher, length, at, from, to);
    at += length;
    lastRead = length;
    recorder.scan.bytes = Math.min(at, to) - from;
    if (length < room.length && at >= source.size) break;
  }
  settled(recorder.scan);
  return lastRead;
}

/** Number of bytes after a byte range that a mark or run starting in it can extend to. */
export function longestOf(marks: ByteStrings, runs: Runs | undefined, windows: ByteWindows | undefined): number {
  return Math.max(extremesOf(marks).longest, runs ? LONGEST_OPEN_RUN : 0, windows ? LONGEST_STRETCH : 0);
}
