import type { Bundle } from '../core/contract/contract.js';
import { Failure } from '../core/findings/failure.js';
import type { Audience } from '../core/inspect/artifact.js';
import { expandPaths, type FoundFile, type FoundFiles, findFiles, givenPath, type NotRead } from '../host/walk.js';
import type { World } from '../host/world.js';
import { BundleOutput } from './bundle-output.js';
import type { Project } from './open.js';

/** Which artifacts are inspected. */
export interface ArtifactRequest {
  /** Paths as they were given, relative to the working directory; empty for the outputs of the bundles. */
  paths: readonly string[];
  bundle?: string;
  /** Include the caches of the bundles' tools. */
  caches?: boolean;
  /** Include installed packages and repositories. */
  packages?: boolean;
}

/** Files that are inspected together: a bundle's output, or paths outside every output, which count as a browser's. */
export interface ArtifactGroup {
  bundle?: Bundle;
  /** True if it is all of the bundle's output, so that something can be missing from it. */
  isWhole: boolean;
  files: (FoundFile & { audience: Audience })[];
  /** Files of it that other machines inspect; absent if this one inspects all. */
  elsewhere?: ArtifactGroup['files'];
  unread: NotRead[];
  /** Paths that are not opened, caches included. */
  skipped: NotRead[];
}

/** The size of all files together. */
export function bytesIn(groups: readonly Pick<ArtifactGroup, 'files'>[]): number {
  let sum = 0;
  for (const { files } of groups) for (const { bytes } of files) sum += bytes;
  return sum;
}

/**
 * The files of a request, by bundle.
 * @throws Failure if nothing says where the artifacts are
 */
export async function findArtifacts(
  project: Project,
  bundles: readonly Bundle[],
  request: ArtifactRequest,
  world: World,
): Promise<ArtifactGroup[]> {
  const { root, files } = project;
  const { paths, caches = false, packages = false } = request;
  const outputs = await Promise.all(
    bundles.map(async (bundle) => ({ bundle, paths: await expandPaths(files, bundle.output, root) })),
  );
  if (paths.length > 0) {
    const given = paths.map((path) => givenPath(path, files.path));
    // A file of several paths is checked once, with the outermost one.
    const all = (await expandPaths(files, given, world.cwd)).sort((a, b) => a.length - b.length);
    const seen = new Set<string>();
    const isNew = ({ path }: { path: string }) => !seen.has(path) && seen.add(path);
    return [...new Set(all)].map((absolute) => {
      const owner = outputs.find((one) => one.paths.some((output) => files.isBelow(absolute, output)));
      const output = owner && new BundleOutput(project, owner.bundle);
      const isCache = output?.audienceOf(absolute) === 'cache';
      const isWhole = owner?.paths.length === 1 && owner.paths[0] === absolute;
      const { files: own, ...found } = findFiles(files, [absolute], packages);
      return { ...groupOf(project, { ...found, files: own.filter(isNew) }, caches || isCache, output), isWhole };
    });
  }
  const withOutput = outputs.filter((one) => one.paths.length > 0);
  if (withOutput.length === 0)
    throw new Failure(
      'no bundle of the contract has an output',
      'add `output` to a bundle, or run: adder inspect PATH...',
    );
  return withOutput.map((one) => {
    const output = new BundleOutput(project, one.bundle);
    const found = findFiles(files, [...one.paths, ...(caches ? output.caches : [])], packages);
    return { ...groupOf(project, found, caches, output), isWhole: true };
  });
}

function groupOf(
  { files }: Project,
  found: FoundFiles,
  withCaches: boolean,
  output?: BundleOutput,
): Omit<ArtifactGroup, 'isWhole'> {
  const all = found.files.map(({ path, bytes, version }) => ({
    path,
    audience: output?.audienceOf(path) ?? ('browser' as const),
    bytes,
    version,
  }));
  const isSkipped = ({ audience }: { audience: Audience }) => audience === 'cache' && !withCaches;
  const caches = new Set(
    all.filter(isSkipped).map(({ path }) => output?.caches.find((cache) => files.isBelow(path, cache)) ?? path),
  );
  return {
    ...(output && { bundle: output.bundle }),
    files: all.filter((one) => !isSkipped(one)),
    unread: found.unread,
    skipped: [...found.skipped, ...[...caches].map((path) => ({ path, because: 'is a cache; --caches includes it' }))],
  };
}
