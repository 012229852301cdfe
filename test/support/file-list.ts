import { statSync } from 'node:fs';
import type { FileList } from '../../src/host/scan-files.js';

/** Files as they are now; those that are not there have no bytes. */
export function fileList(paths: readonly string[]): FileList {
  const all = paths.map((path) => statSync(path, { throwIfNoEntry: false }));
  return {
    paths,
    bytes: Float64Array.from(all, (stats) => stats?.size ?? 0),
    versions: Float64Array.from(all, (stats) => stats?.ctimeMs ?? 1),
  };
}
