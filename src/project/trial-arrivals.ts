import type { Stage } from '../core/contract/contract.js';
import { within } from '../core/files/within.js';
import type { Coverage } from '../core/findings/check.js';
import type { Audience } from '../core/inspect/artifact.js';
import { markTable } from '../core/inspect/mark-table.js';
import type { Owner } from '../core/inspect/plan.js';
import { ArtifactSearch } from '../core/inspect/search.js';
import { TextMask } from '../core/mask/text-mask.js';
import { sha256 } from '../core/text/hash.js';
import { type OutputDigests, stablePath, stableText } from '../core/trial/difference.js';
import { type Arrival, LOG } from '../core/trial/evidence.js';
import type { Marker } from '../core/trial/marker.js';
import { trialPlan } from '../core/trial/search-plan.js';
import { FileArtifact } from '../host/file-artifact.js';
import { describeFileError, withSlashes } from '../host/files.js';
import { ShownPaths } from '../host/shown-paths.js';
import type { ProjectCopy } from '../host/trial/copy.js';
import { findFiles } from '../host/walk.js';
import { BundleOutput } from './bundle-output.js';
import type { Project } from './open.js';

/** Files of a copy, each with its version. */
export type CopyState = ReadonlyMap<string, { bytes: number; version: number }>;

/** The files of a copy as they are now, without installed packages. */
export function stateOf({ files }: Pick<Project, 'files'>, root: string): CopyState {
  return new Map(findFiles(files, [root]).files.map(({ path, bytes, version }) => [path, { bytes, version }]));
}

/** A file that a build wrote or changed. */
export interface WrittenFile {
  /** Absolute. */
  path: string;
  /** Relative to the contract's directory, with slashes. */
  shown: string;
  bytes: number;
}

/** Files of a project that was built, by their paths with slashes. */
export interface BuiltFiles {
  /** New files, and those that the build changed. */
  written: readonly string[];
  /** Files that were there before. */
  before: readonly string[];
}

/** The path of a file of a copy, relative to the contract's directory, with slashes. */
export function shownIn({ files }: Pick<Project, 'files'>, { root }: ProjectCopy): (path: string) => string {
  return (path) => withSlashes(files.path.relative(root, path), files.path);
}

/** The files that a build wrote or changed in a copy. */
export function writtenIn(project: Pick<Project, 'files'>, copy: ProjectCopy, before: CopyState): WrittenFile[] {
  const shown = shownIn(project, copy);
  return [...stateOf(project, copy.top)].flatMap(([path, { bytes, version }]) =>
    before.get(path)?.version === version ? [] : [{ path, shown: shown(path), bytes }],
  );
}

/** Digests of all that a build wrote into outputs, but for caches: two builds are compared by them. */
export function outputDigests(project: Project, { root }: ProjectCopy, written: readonly WrittenFile[]): OutputDigests {
  const { files } = project;
  const audienceOf = audiencesIn({ ...project, root });
  const shipped = written.filter((one) => audienceOf(one) === 'browser');
  const names = shipped.map(({ path }) => files.path.basename(path));
  const digests = new Map<string, string[]>();
  for (const { path, shown } of shipped) {
    const digest = sha256(Buffer.from(stableText(files.read(path).toString('latin1'), names), 'latin1'));
    digests.set(stablePath(shown), [...(digests.get(stablePath(shown)) ?? []), digest]);
  }
  return digests;
}

/** Who gets a file of a copy; undefined for a file outside of every output. @param project with the copy's root */
function audiencesIn(project: Project): (file: WrittenFile) => Audience | undefined {
  const outputs = [...project.contract.bundles.values()].map((bundle) => ({
    isIn: within(bundle.output),
    output: new BundleOutput(project, bundle),
  }));
  return ({ path, shown }) => outputs.find(({ isIn }) => isIn(shown))?.output.audienceOf(path);
}

/** A build in a copy, when it has ended. */
export interface SearchedBuild {
  stage: Stage;
  markers: readonly Marker[];
  written: readonly WrittenFile[];
  /** The build's output. */
  log: Uint8Array;
}

/**
 * Searches everything that a build wrote for markers.
 */
export async function arrivalsIn(
  project: Project,
  { root }: ProjectCopy,
  { stage, markers, written, log }: SearchedBuild,
): Promise<{ arrivals: Arrival[]; coverage: Coverage; hasOutput: boolean }> {
  const { files, contract } = project;
  const bytes = written.reduce((sum, one) => sum + one.bytes, 0);
  const audienceOf = audiencesIn({ ...project, root });
  const plan = trialPlan(markers);
  const table = markTable(plan, bytes);
  const paths = new ShownPaths(files, root, new TextMask(table.matcher, () => false));
  const search = new ArtifactSearch(plan, { table, now: Date.now });
  const byText = new Map(markers.map((marker) => [marker.text, marker]));
  const of = ({ variable }: Owner) => byText.get(variable) as Marker;
  const coverage: Coverage = { files: 0, members: 0, bytes: 0, unread: [] };
  const arrivals: Arrival[] = [];
  let hasOutput = false;
  for (const file of written) {
    const { path, shown } = file;
    const audience = audienceOf(file);
    hasOutput ||= audience !== undefined && audience !== 'cache';
    const inspected = { stage: stage.name, audience: audience ?? ('browser' as const), withOrigins: true };
    try {
      const found = await search.search(new FileArtifact(path, inspected.audience, paths), inspected);
      coverage.files++;
      coverage.members += found.members;
      coverage.bytes += found.bytes;
      // Caches have formats of their own, and do not ship.
      if (audience !== 'cache') coverage.unread.push(...found.unread);
      for (const { owner, inside, encoding, origin } of found.present)
        arrivals.push({
          ...{ marker: of(owner), path: shown, inside, encoding },
          ...(audience && { audience }),
          ...(origin?.line !== undefined && { origin: { path: origin.path, line: origin.line } }),
        });
    } catch (error) {
      coverage.unread.push({ path: shown, inside: [], because: describeFileError(error) });
    }
  }
  for (const { owner, encoding } of search.valuesIn(log))
    arrivals.push({ marker: of(owner), path: LOG, inside: [], encoding });
  if (!hasOutput) {
    const paths = [...contract.bundles.values()].flatMap(({ output }) => output);
    coverage.unread.push({ path: paths.join(', '), inside: [], because: 'has nothing that the build wrote' });
  }
  return { arrivals: distinct(arrivals), coverage, hasOutput };
}

/** Each marker once for a file, with its first encoding. */
function distinct(all: readonly Arrival[]): Arrival[] {
  const keyOf = ({ marker, path, inside }: Arrival) => JSON.stringify([marker.text, path, inside]);
  return [...new Map(all.toReversed().map((one) => [keyOf(one), one])).values()].reverse();
}
