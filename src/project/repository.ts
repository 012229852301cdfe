import { isInPackages, isSkippedDirectory, isUsualOutput } from '../core/files/directories.js';
import { keyFileGlobs, keyFileKind } from '../core/files/keys.js';
import { isDart, scriptLanguage } from '../core/files/languages.js';
import { envLikeGlobs, isEnvLike, mayBeEnvLike, valueFileOf } from '../core/files/value-files.js';
import type { Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import type { PastValue } from '../core/history/history.js';
import { pastCoverage } from '../core/inspect/past-coverage.js';
import { limits } from '../core/limits/index.js';
import type { LintFinding } from '../core/lint/model.js';
import { isOtherText, SecretSearch } from '../core/lint/repository/contents.js';
import { dependencyRule } from '../core/lint/repository/dependencies.js';
import type { Past, RepositoryFacts, SecretInFile } from '../core/lint/repository/facts.js';
import { type HistoryPlan, planHistory, ValueSearch, type Version } from '../core/lint/repository/history.js';
import { lintRepositoryFacts } from '../core/lint/repository/index.js';
import { packageFiles } from '../core/lint/repository/packages.js';
import { PastFiles } from '../core/lint/repository/past-files.js';
import { WholeValues } from '../core/lint/repository/whole-values.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { byteSize, count } from '../core/text/display.js';
import { isReadOfMachine } from '../core/toolchains/index.js';
import { describeFileError, type Files, isMissing, withSlashes } from '../host/files.js';
import { GitProblem } from '../host/git.js';
import { ModuleResolver } from '../host/modules.js';
import { type Blob, Repository } from '../host/version-control.js';
import { filesNamed } from '../host/walk.js';
import type { World } from '../host/world.js';
import type { Check } from './check.js';
import { type ProjectHistory, projectHistory, unreadEntries } from './history.js';
import type { ProjectCode } from './lint.js';
import { type Project, packageFolder } from './open.js';
import { otherScopes } from './resolve.js';

/** Checks what the repository discloses: through version control, packed files, pipelines and packages. */
export const checkRepository: Check<{ code: ProjectCode }> = async (project, { code }, world) => {
  const { stages } = code.context;
  const history = historyOf(project, stages, world);
  const { facts, unread, skipped } = await gatherFacts(project, { stages, recorded: history.values }, world);
  const packages = checkPackages(project, code);
  return {
    findings: [...lintRepositoryFacts(facts), ...packages.findings],
    coverage: {
      ...{ files: 0, members: 0, bytes: 0 },
      unread: [...unread, ...unreadEntries(project, history)],
      skipped: [...skipped, ...packages.skipped],
      ...pastCoverage(history),
    },
    groups: ['repo/'],
  };
};

interface Gathered {
  facts: RepositoryFacts;
  unread: Unread[];
  skipped: Unread[];
}

/** The project's state in git. */
interface Listed {
  tracked: ReadonlySet<string>;
  visible: readonly string[];
  /** Names of the present files that rules ask about. */
  present: readonly string[];
  ignored: ReadonlySet<string>;
}

async function gatherFacts(project: Project, values: KnownValues, world: World): Promise<Gathered> {
  const { stages } = values;
  const { contract, root, files } = project;
  const layers = stages.flatMap((one) => one.layers.flatMap(({ path }) => path ?? []));
  const reader = new FactReader(project);
  const repository = Repository.at(root);
  const known = repository && (await reader.ofGit('.git', () => listedBy(repository, project, layers)));
  const { tracked, visible, present, ignored } = known ?? withoutVersions(project);
  const history =
    known && repository
      ? await reader.ofGit(HISTORY, () => searchHistory(repository, project, tracked, values, world))
      : undefined;
  const facts: RepositoryFacts = {
    contract,
    directory: withSlashes(root, files.path),
    stages,
    paths: [...new Set([...visible, ...present])].sort(),
    isVersioned: known !== undefined,
    tracked,
    isIgnored: (path) => ignored.has(path),
    past: history?.past ?? [],
    pastValues: history?.pastValues ?? [],
    inFiles: secretsInFiles(reader, tracked, values, new Set(layers)),
    text: (path) => reader.bytes(path)?.toString(),
    exists: (path) => files.exists(files.path.join(root, path)),
  };
  const skipped = (history?.leftOut ?? []).map((because) => ({ path: HISTORY, inside: [], because }));
  return { facts, unread: reader.unread, skipped };
}

const HISTORY = 'git history';

/** Values to search for: those of the stages, and those of the history that no stage has now. */
interface KnownValues {
  stages: readonly Resolution[];
  recorded: readonly PastValue[];
}

function historyOf(project: Project, stages: readonly Resolution[], world: World): ProjectHistory {
  return projectHistory(project, [...stages, ...otherScopes(project, undefined, world)]);
}

/** Reads what the facts consist of, and keeps what cannot be read, and why. */
class FactReader {
  /** Grows until the last fact is used. */
  readonly unread: Unread[] = [];

  constructor(readonly project: Project) {}

  /** Undefined if git does not answer. */
  async ofGit<T>(path: string, read: () => T | Promise<T>): Promise<T | undefined> {
    try {
      return await read();
    } catch (error) {
      if (!(error instanceof GitProblem)) throw error;
      this.#add(path, `${error.because}, so what it discloses is not known; ${error.remedy}`);
      return undefined;
    }
  }

  /** Undefined for what is missing, too large, no file or unreadable. */
  bytes(path: string, mostBytes = limits.optionalFileBytes.value): Buffer | undefined {
    const { root, files } = this.project;
    try {
      return files.readRegular(files.path.join(root, path), mostBytes);
    } catch (error) {
      if (!(error instanceof Failure) && !isMissing(error)) this.#add(path, describeFileError(error));
      return undefined;
    }
  }

  #add(path: string, because: string): void {
    if (!this.unread.some((one) => one.path === path)) this.unread.push({ path, inside: [], because });
  }
}

function listedBy(repository: Repository, project: Project, layers: readonly string[]): Listed {
  const outside = layers.filter((path) => path.startsWith('../'));
  const tracked = new Set([...repository.tracked(), ...repository.tracked(outside)]);
  const visible = repository.visible().filter((path) => !isInPackages(path));
  // Env files count even if they are ignored.
  const present = presentFiles(project, mayBeEnvLike);
  const asked = [...layers, ...[...visible, ...present].filter((path) => valueFileOf(path))];
  return { tracked, visible, present, ignored: repository.ignoredAmong([...new Set(asked)]) };
}

/** Without version control, the directory is all there is. */
function withoutVersions(project: Project): Listed {
  return { tracked: new Set(), visible: [], present: presentFiles(project, () => true), ignored: new Set() };
}

function presentFiles({ files, root }: Project, isNamed: (name: string) => boolean): string[] {
  const isOutput = (path: string) => isSkippedDirectory(path) || isUsualOutput(path);
  const isFar = (path: string) => path.split('/').length > limits.directoryDepth.value;
  return filesNamed(files, root, isNamed, (path) => isOutput(path) || isFar(path));
}

/** Secrets in tracked text files that no other rule reads. */
function secretsInFiles(
  reader: FactReader,
  tracked: ReadonlySet<string>,
  { stages, recorded }: KnownValues,
  layers: ReadonlySet<string>,
): SecretInFile[] {
  const search = new SecretSearch(reader.project.contract, stages, recorded);
  return [...tracked]
    .filter((path) => isOtherText(path, layers) && keyFileKind(path) === undefined)
    .sort()
    .flatMap((path) => {
      const content = reader.bytes(path, limits.historyVersionBytes.value);
      return content ? search.hits(path, content) : [];
    });
}

/** Env files and keys of any commit, without examples. */
function pastFiles(repository: Repository): Past[] {
  const patterns = [...envLikeGlobs, ...keyFileGlobs].map((one) => `:(glob)${one}`);
  const byPath = new Map<string, Past>();
  for (const { path, id, day } of repository.touchesOf(patterns)) {
    if (!isEnvLike(path) && !keyFileKind(path)) continue;
    const known = byPath.get(path);
    if (known) known.first = { id, day };
    else byPath.set(path, { path, first: { id, day }, last: { id, day } });
  }
  return [...byPath.values()];
}

/**
 * Searches past versions of files for today's values. A value that a tracked file has now is reported for that file instead.
 * `leftOut` says what is not searched, as phrases.
 * @throws GitProblem
 */
async function searchHistory(
  repository: Repository,
  { root, contract, files }: Project,
  tracked: ReadonlySet<string>,
  { stages, recorded }: KnownValues,
  world: World,
): Promise<Pick<RepositoryFacts, 'past' | 'pastValues'> & { leftOut: string[] }> {
  const past = pastFiles(repository);
  const history = repository.history();
  // A value that was replaced needs no other remedy in a version of the past.
  const lasting = recorded.filter(({ to, isPast }) => to === undefined && !isPast);
  const values = new WholeValues(contract, stages, lasting);
  const blobs = values.isEmpty ? history.blobs.filter(({ path }) => isEnvLike(path)) : history.blobs;
  const versions = versionsOf(repository, blobs);
  const plan = planHistory(versions, history);
  if (versions.length === 0) return { past, pastValues: [], leftOut: plan.leftOut };
  const search = new ValueSearch(values);
  const envFiles = new PastFiles(contract, stages);
  const progress = new Progress(world, plan);
  const ids = plan.versions.map(({ id }) => id);
  await repository.readBlobs(ids, (index, content) => {
    progress.at(index);
    const version = plan.versions[index] as Version;
    search.add(version, content);
    envFiles.add(version.path, content);
  });
  const planned = new Set(plan.versions);
  const leftOut = new Set(versions.flatMap((one) => (planned.has(one) ? [] : one.path)));
  progress.end();
  const isStillThere = (variable: string, path: string) =>
    tracked.has(path) && search.has(variable, files.readIfPossible(files.path.join(root, path)) ?? new Uint8Array());
  const pastValues = search.found.flatMap(({ variable, stages: found, version: { id, path }, recorded: of }) => {
    if (isStillThere(variable, path)) return [];
    const commits = repository.commitsWith(id);
    const [last, first] = [commits[0], commits.at(-1)];
    return first && last ? [{ variable, stages: found, path, first, last, ...(of && { recorded: of }) }] : [];
  });
  const named = past.map((one) => ({ ...one, names: leftOut.has(one.path) ? undefined : envFiles.of(one.path) }));
  return { past: named, pastValues, leftOut: plan.leftOut };
}

function versionsOf(repository: Repository, blobs: readonly Blob[]): Version[] {
  const sizes = repository.sizesOf(blobs.map(({ id }) => id));
  return blobs.map((blob, index) => ({ ...blob, size: sizes[index] ?? 0 }));
}

/** A line on a terminal, for long histories. */
class Progress {
  #shown = 0;

  constructor(
    readonly world: World,
    readonly plan: HistoryPlan,
  ) {}

  at(index: number): void {
    const { versions, bytes } = this.plan;
    if (!this.world.stderr.isTerminal || bytes < 16 * 1024 * 1024 || index - this.#shown < 500) return;
    this.#shown = index;
    const done = `${index} of ${count(versions.length, 'version')}, ${byteSize(bytes)}`;
    this.world.stderr.pass(`\r\x1b[Kadder: searching the history, ${done}`);
  }

  end(): void {
    if (this.#shown > 0) this.world.stderr.pass('\r\x1b[K');
  }
}

/** Finds packages in bundles that read the environment. `skipped` names bundles with too many package files to follow. */
function checkPackages(
  project: Project,
  { context, files }: ProjectCode,
): { findings: LintFinding[]; skipped: Unread[] } {
  const { root, files: disk } = project;
  const { join } = disk.path;
  const skipped: Unread[] = [];
  const findings = context.bundles.flatMap(({ bundle, shipped }) => {
    const entries = [...shipped.keys()].flatMap((path) => {
      const file = files.get(path);
      // Packages of what Node.js runs in an app read the environment of the machine.
      const isFollowed = !isDart(path) && !isReadOfMachine(bundle, path, 'process.env');
      return file && isFollowed ? [{ path: join(root, path), file }] : [];
    });
    const [entry] = shipped.keys();
    if (bundle.runs === 'server' || entry === undefined || entries.length === 0) return [];
    const resolver = new ModuleResolver();
    const found = packageFiles(entries, {
      resolve: (from, specifier) => slashed(disk, resolver.resolve(from, specifier)),
      text: (path) => (scriptLanguage(path) ? disk.readIfPossible(path)?.toString() : undefined),
    });
    if (found.isCut) skipped.push({ path: `packages of ${bundle.name}`, inside: [], because: TOO_MANY_FILES });
    const manifest = disk.path.posix.join(packageFolder(project, disk.path.posix.dirname(entry)), 'package.json');
    return dependencyRule(found.files, bundle, manifest);
  });
  return { findings, skipped };
}

const TOO_MANY_FILES = `have more than ${count(limits.packageFiles.value, 'file')}, and the others were not followed`;

function slashed(files: Files, path: string | undefined): string | undefined {
  return path === undefined ? undefined : withSlashes(path, files.path);
}
