import { givenValues } from '../core/build/environment.js';
import type { DigestedFile, LocatedPlace, OutputFacts } from '../core/conclude/facts.js';
import type { Bundle } from '../core/contract/contract.js';
import type { ArtifactSearch } from '../core/inspect/search.js';
import { type BuildFacts, buildFacts } from '../core/receipt/build-facts.js';
import { unsetIn } from '../core/receipt/environment.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { FileArtifact } from '../host/file-artifact.js';
import type { ShownPaths } from '../host/shown-paths.js';
import type { StoredReceipt } from '../host/state.js';
import { digestsOfBuilt, type LastBuilds } from './last-build.js';
import type { Project } from './open.js';

/** A file in an archive. */
export interface ArchivedFile {
  /** The archive's absolute path. */
  path: string;
  inside: readonly string[];
  sha256: string;
}

export interface BuiltFilesParts {
  project: Project;
  resolution: Resolution;
  search: ArtifactSearch;
  paths: ShownPaths;
}

/** Collects what receipts say of files: those of an output's last build, and files of any build, wherever they are now. */
export class BuiltFiles {
  constructor(
    readonly parts: BuiltFilesParts,
    readonly builds: LastBuilds,
  ) {}

  /** @param shipped absolute paths of files that are no cache @param members files in them */
  async facts(
    { bundle, isWhole }: { bundle: Bundle | undefined; isWhole: boolean },
    shipped: readonly string[],
    members: readonly ArchivedFile[],
  ): Promise<Pick<OutputFacts, 'build' | 'earlier' | 'hasBuilds' | 'files' | 'located'>> {
    const stored = bundle && this.builds.receiptOf(bundle);
    const own = bundle && stored && this.builds.any ? this.#compared(bundle, stored) : undefined;
    const paths = new Map(shipped.map((path) => [this.parts.paths.of(path), path]));
    const files: DigestedFile[] = [];
    const digest = async (which: (path: string) => boolean) => {
      for (const [path, absolute] of paths)
        if (which(path))
          files.push({ path, inside: [], sha256: await digestsOfBuilt(this.parts.project.files, absolute) });
    };
    const isOfBuild = new Set(own?.files.map(({ name }) => name));
    await digest((path) => (isWhole ? isOfBuild.has(path) : this.builds.any));
    const built = new Map(own?.files.map(({ name, sha256 }) => [name, sha256]));
    const isAsBuilt = ({ path, sha256 }: DigestedFile) => sha256.includes(built.get(path) ?? '');
    // If files of the build are missing or changed, the other files may come from an earlier build.
    if (isWhole && own && files.filter(isAsBuilt).length < built.size) await digest((path) => !isOfBuild.has(path));
    for (const { path, inside, sha256 } of this.builds.any ? members : []) {
      const shown = this.parts.paths.of(path);
      paths.set(shown, path);
      files.push({ path: shown, inside: this.parts.paths.inside(inside), sha256: [sha256] });
    }
    const written = new Set(own?.files.flatMap(({ name, isUntouched }) => (isUntouched ? [] : [name])));
    const isOld = (file: DigestedFile) =>
      !isWhole || file.inside.length > 0 || !written.has(file.path) || !isAsBuilt(file);
    const earlier = this.#earlier(files.filter(isOld)).filter(({ receipt }) => !isWhole || receipt !== own?.receipt);
    const located = [...(own && isWhole ? [own] : []), ...earlier].flatMap((build) =>
      this.#located(build, files, paths),
    );
    return { ...(own && { build: own }), earlier, hasBuilds: this.builds.any, files, located };
  }

  /** The builds that some of the files are of. */
  #earlier(files: readonly DigestedFile[]): BuildFacts[] {
    const digests = new Set(files.flatMap(({ sha256 }) => sha256));
    return this.builds.all.flatMap(({ bundle, stored }) => {
      const isOfSome = stored.receipt.subject.some(({ digest }) => digests.has(digest.sha256));
      return isOfSome ? [this.#compared(bundle, stored)] : [];
    });
  }

  #compared(bundle: Bundle, { receipt, path }: StoredReceipt): BuildFacts {
    const { project, resolution } = this.parts;
    const { contract, files, root } = project;
    return buildFacts(resolution.stage.name, receipt, {
      path: files.shown(path, root),
      key: this.builds.keyOf(receipt),
      given: givenValues(contract, bundle, resolution),
      unset: unsetIn(resolution),
      build: bundle.build,
      buildsAlike: contract.stages.get(receipt.predicate.stage)?.buildAs === resolution.stage.buildAs,
    });
  }

  /** The first place of each value that changed since a build, in files that did not. */
  #located(build: BuildFacts, files: readonly DigestedFile[], paths: ReadonlyMap<string, string>): LocatedPlace[] {
    const names = new Map(build.files.map(({ name, sha256 }) => [name, sha256]));
    const byDigest = new Map(files.flatMap((file) => file.sha256.map((sha256) => [sha256, file] as const)));
    return build.values.flatMap(({ variable, relation, places }) => {
      const place = places.find(({ path }) => byDigest.has(names.get(path) ?? ''));
      if (relation !== 'changed' || !place) return [];
      const now = byDigest.get(names.get(place.path) ?? '') as DigestedFile;
      // Lines of embedded files are not counted again.
      if (now.inside.length > 0 || (place.inside ?? []).length > 0) return [];
      const artifact = new FileArtifact(paths.get(now.path) ?? now.path, 'browser', this.parts.paths);
      const described = this.parts.search.describe(artifact, place.offset, place.length);
      return [{ receipt: build.receipt, variable, path: place.path, offset: place.offset, ...described }];
    });
  }
}
