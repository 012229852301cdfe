import { givenValues } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import { finding, type RawFinding } from '../core/findings/finding.js';
import type { ArtifactSearch } from '../core/inspect/search.js';
import { type ArtifactFacts, servesBoth, stalenessFindings } from '../core/receipt/staleness.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { FileArtifact } from '../host/file-artifact.js';
import type { ShownPaths } from '../host/shown-paths.js';
import type { StoredReceipt } from '../host/state.js';
import { type LastBuilds, unchangedFiles } from './last-build.js';
import type { Project } from './open.js';

/** A file in an archive. */
export interface Member {
  /** The archive's absolute path. */
  path: string;
  inside: readonly string[];
  sha256: string;
}

/** A file of an earlier build, where it is now. */
interface Found {
  /** In reports. */
  name: string;
  /** The absolute path of the file, or of the archive that it is in. */
  path: string;
  inside: readonly string[];
}

export interface BuiltFilesParts {
  project: Project;
  resolution: Resolution;
  search: ArtifactSearch;
  paths: ShownPaths;
}

/** Files of earlier builds, which are recognised by the digests in receipts, and what is old in them. */
export class BuiltFiles {
  constructor(
    readonly parts: BuiltFilesParts,
    readonly builds: LastBuilds,
  ) {}

  /**
   * Files and embedded files of any build, wherever they are now. One that several builds wrote counts as of the newest.
   * @param own a receipt whose files are left out
   * @returns findings, and whether every file is of some build, an archive if everything in it is
   */
  async recognise(
    { files, members }: { files: readonly { name: string; path: string }[]; members: readonly Member[] },
    own: StoredReceipt | undefined,
  ): Promise<{ findings: RawFinding[]; isComplete: boolean }> {
    if (!this.builds.any) return { findings: [], isComplete: false };
    const places = this.#placesByDigest(files, members);
    const left = new Set(places.keys());
    const findings: RawFinding[] = [];
    for (const digest of digestsOf(own)) left.delete(digest);
    for (const { bundle, stored } of this.builds.all) {
      const found = new Map<string, Found>();
      for (const { name, digest } of stored.receipt.subject)
        if (left.delete(digest.sha256)) found.set(name, places.get(digest.sha256) as Found);
      if (found.size > 0) findings.push(...(await this.#findingsIn(bundle, stored, found)));
    }
    const archives = new Set(members.flatMap(aroundIt));
    const unknown = [...left].map((digest) => places.get(digest) as Found);
    return { findings, isComplete: unknown.every((one) => archives.has(placeKey(one.path, one.inside))) };
  }

  async #findingsIn(bundle: Bundle, stored: StoredReceipt, found: ReadonlyMap<string, Found>): Promise<RawFinding[]> {
    const { stage, builtAt } = stored.receipt.predicate;
    const facts = this.#facts(bundle, stored, found, new Set());
    if (stage === this.parts.resolution.stage.name || servesBoth(facts))
      return stalenessFindings(stage, facts).filter(({ code }) => code === 'stale/past-value');
    const [first] = found.values();
    const about = { bundle: bundle.name, builtFor: stage, builtAt };
    const at = first && { place: { path: first.name, inside: this.parts.paths.inside(first.inside) } };
    return [finding('stale/receipt', 'file-of-other-stage', about, at)];
  }

  /**
   * What is known of the output of a bundle.
   * @param shipped name at the build to absolute path now @param seen public variables whose value is there
   */
  async factsOf(
    bundle: Bundle,
    stored: StoredReceipt,
    shipped: ReadonlyMap<string, string>,
    seen: ReadonlySet<string>,
  ): Promise<ArtifactFacts> {
    const { project } = this.parts;
    const unchanged = await unchangedFiles(project.files, stored.receipt.subject, shipped);
    const found = [...shipped].map(([name, path]): [string, Found] => [name, { name, path, inside: [] }]);
    return { ...this.#facts(bundle, stored, new Map(found), seen), unchanged };
  }

  /** @param found files of the build that are there, by their names at the build */
  #facts(
    bundle: Bundle,
    { receipt, path }: StoredReceipt,
    found: ReadonlyMap<string, Found>,
    seen: ReadonlySet<string>,
  ): ArtifactFacts {
    const { project, resolution, search, paths } = this.parts;
    return {
      receipt,
      receiptPath: project.files.shown(path, project.root),
      key: this.builds.key ?? new Uint8Array(),
      given: givenValues(project.contract, bundle, resolution),
      build: bundle.build,
      buildsAlike: project.contract.stages.get(receipt.predicate.stage)?.buildAs === resolution.stage.buildAs,
      unchanged: new Set(found.keys()),
      present: new Set(found.keys()),
      seen,
      locate: ({ inside = [], ...place }) => {
        const { path: now, inside: around } = found.get(place.path) ?? { path: place.path, inside: [] };
        const within = [...paths.inside(around), ...inside];
        if (within.length > 0) return { place: { ...place, path: paths.of(now), inside: within } };
        return search.describe(new FileArtifact(now, 'browser', paths), place.offset, place.length);
      },
    };
  }

  #placesByDigest(
    files: readonly { name: string; path: string }[],
    members: readonly Member[],
  ): ReadonlyMap<string, Found> {
    const { project, paths } = this.parts;
    return new Map([
      ...members.map(({ path, inside, sha256 }): [string, Found] => [sha256, { name: paths.of(path), path, inside }]),
      ...files.map(({ name, path }): [string, Found] => [project.files.digest(path), { name, path, inside: [] }]),
    ]);
  }
}

function placeKey(path: string, inside: readonly string[]): string {
  return JSON.stringify([path, ...inside]);
}

/** The archives that an embedded file is in. */
function aroundIt({ path, inside }: Member): string[] {
  return inside.map((_, depth) => placeKey(path, inside.slice(0, depth)));
}

function digestsOf(stored: StoredReceipt | undefined): string[] {
  return stored?.receipt.subject.map(({ digest }) => digest.sha256) ?? [];
}
