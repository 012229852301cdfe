import { availableParallelism } from 'node:os';
import type { MarkTable } from '../core/inspect/mark-table.js';
import type { ScanAheadOfTime } from '../host/scan-ahead.js';
import type { ScanThreads } from '../host/scan-threads.js';
import { type ArtifactGroup, bytesIn } from './artifacts.js';

/** Below both, threads cost more time than they save (measured on two hardware threads of one core). */
const [WORTH_BYTES, WORTH_FILES] = [128 * 2 ** 20, 12_000];
const MOST_THREADS = 4;

/** @param asked number of threads; chosen by the input's size if absent */
export async function startThreads(groups: readonly ArtifactGroup[], asked?: number): Promise<ScanThreads | undefined> {
  const fileCount = groups.reduce((sum, { files }) => sum + files.length, 0);
  const isWorth = bytesIn(groups) >= WORTH_BYTES || fileCount >= WORTH_FILES;
  const count = asked ?? (isWorth ? Math.min(MOST_THREADS, availableParallelism()) : 1);
  if (count === 1) return undefined;
  const { ScanThreads } = await import('../host/scan-threads.js');
  return new ScanThreads(count - 1);
}

/** A larger file may exceed the time limit of one file, which only the main thread checks; without threads, nobody else scans a stretch. */
const [LARGEST_AHEAD, LARGEST_ALONE] = [16 * 2 ** 30, 8 * 2 ** 20];

/** Below this number of files, loading the module costs more than it saves. */
const WORTH_ROWS = 64;

/** @returns undefined if the files are scanned one by one, at the turn of each */
export async function scanAhead(
  groups: readonly ArtifactGroup[],
  table: MarkTable,
  threads: ScanThreads | undefined,
): Promise<ScanAheadOfTime | undefined> {
  const most = threads ? LARGEST_AHEAD : LARGEST_ALONE;
  const all = groups.flatMap((group) => group.files).filter(({ bytes }) => bytes <= most);
  const files = [...new Map(all.map((file) => [file.path, file])).values()];
  if (!threads && files.length < WORTH_ROWS) return undefined;
  const { ScanAheadOfTime } = await import('../host/scan-ahead.js');
  return new ScanAheadOfTime(files, table, threads);
}
