import type { PartNumber } from '../core/conclude/facts.js';
import { sha256 } from '../core/text/hash.js';
import type { ArtifactGroup } from './artifacts.js';
import type { Project } from './open.js';

type GroupFile = ArtifactGroup['files'][number];

/**
 * The groups of one part: each file belongs to exactly one. The largest file goes to the part that has the least so far, so all machines
 * come to the same division from the same files, and have about as much to read.
 */
export function partOf(groups: readonly ArtifactGroup[], { part, of }: PartNumber): ArtifactGroup[] {
  const all = groups.flatMap(({ files }) => files);
  const sums = Array.from({ length: of }, () => 0);
  const owners = new Map<GroupFile, number>();
  for (const file of all.toSorted((a, b) => b.bytes - a.bytes || (a.path < b.path ? -1 : 1))) {
    const least = sums.indexOf(Math.min(...sums));
    // An empty file takes time too.
    sums[least] = (sums[least] as number) + file.bytes + 1;
    owners.set(file, least + 1);
  }
  return groups.map((group) => ({
    ...group,
    files: group.files.filter((file) => owners.get(file) === part),
    elsewhere: group.files.filter((file) => owners.get(file) !== part),
  }));
}

/** Tells outputs apart: a digest of the names and sizes of all files. */
export function listingOf(groups: readonly ArtifactGroup[], { root, files: { path: paths } }: Project): string {
  const shown = (path: string) => paths.relative(root, path).split(paths.sep).join('/');
  const lines = groups.flatMap(({ files }) => files.map(({ path, bytes }) => `${bytes} ${shown(path)}`));
  return sha256(lines.sort().join('\n')).slice(0, 32);
}
