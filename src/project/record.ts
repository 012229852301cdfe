import { readName } from '../core/build/environment.js';
import type { Bundle, Stage, Variable } from '../core/contract/contract.js';
import { type Owner, planForValues } from '../core/inspect/plan.js';
import { ArtifactSearch } from '../core/inspect/search.js';
import type { ArtifactResult } from '../core/inspect/visit.js';
import { TextMask } from '../core/mask/text-mask.js';
import { weakness } from '../core/needles/weak.js';
import { otherValues, receiptSource } from '../core/receipt/changes.js';
import {
  fingerprint,
  type HeldPlace,
  keyMark,
  makeReceipt,
  type ReceiptValue,
  type Revision,
} from '../core/receipt/receipt.js';
import type { GivenValue } from '../core/receipt/serves-both.js';
import { PAGE_FILE } from '../core/runtime/runtime.js';
import { matcherFor } from '../core/search/matcher-for.js';
import { reveal } from '../core/secrets/secret.js';
import { sha256 } from '../core/text/hash.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { FileArtifact } from '../host/file-artifact.js';
import type { Files } from '../host/files.js';
import { ShownPaths } from '../host/shown-paths.js';
import { ensureKey, newestReceipt, readUses, storeReceipt } from '../host/state.js';
import { expandPaths, pathsBelow } from '../host/walk.js';
import type { World } from '../host/world.js';
import { VERSION } from '../version.js';
import { BundleOutput } from './bundle-output.js';
import type { Readers } from './expected.js';
import type { Project } from './open.js';
import type { PreparedBuild } from './preflight.js';
import { toolVersions } from './tool-versions.js';
import { writtenElsewhere } from './written-elsewhere.js';

/** Without the file of a stage's values: it may be written within the build, and is another one for each stage. */
async function outputFiles(project: Project, bundle: Bundle): Promise<string[]> {
  const output = new BundleOutput(project, bundle);
  const { files, root } = project;
  return pathsBelow(files, await expandPaths(files, bundle.output, root)).filter(
    (path) => !PAGE_FILE.test(files.path.basename(path)) && output.audienceOf(path) !== 'cache',
  );
}

/** Detects written files by ctime, which programs cannot set. */
function stampOf(files: Files, path: string): string {
  const stats = files.stat(path);
  return stats ? `${stats.ctimeMs} ${stats.size}` : '';
}

/** The stamps of the output files before a build: those that it does not change, it did not write. */
export async function stampsOf(project: Project, bundle: Bundle | undefined): Promise<Map<string, string>> {
  if (!bundle || bundle.output.length === 0) return new Map();
  return new Map((await outputFiles(project, bundle)).map((path) => [path, stampOf(project.files, path)]));
}

/** The state before a build started, and the command that ran. */
export interface BuildStart {
  command: readonly string[];
  /** Milliseconds since 1970. */
  started: number;
  before: ReadonlyMap<string, string>;
  /** Absent without version control. */
  revision?: Revision | undefined;
  /** Ids of the values' entries in the history, by variable. */
  entries: ReadonlyMap<string, string>;
}

/** The result of recording a build: the receipt's path, or why no receipt was written. */
export type BuildRecord = { receiptPath: string; files: number } | { withoutReceipt: string };

/** Writes the receipt of a build that succeeded. @throws Failure if it cannot be written */
export async function recordBuild(
  project: Project,
  prepared: PreparedBuild,
  start: BuildStart,
  world: World,
): Promise<BuildRecord> {
  const { bundle } = prepared;
  if (!bundle) return { withoutReceipt: 'the contract has no bundle' };
  const without = (because: string) => ({
    withoutReceipt: `${because}${writtenElsewhere(project, bundle, start.started)}`,
  });
  if (bundle.output.length === 0) return without(`${bundle.name} has no output in the contract`);
  const files = await outputFiles(project, bundle);
  if (files.length === 0) return without(`${bundle.output.join(', ')} has no files`);
  const untouched = files.filter((path) => start.before.get(path) === stampOf(project.files, path));
  const key = ensureKey(project);
  if (files.length === start.before.size && files.length === untouched.length && !isRebuild(project, prepared, key))
    return without(`the command wrote nothing to ${bundle.output.join(', ')}`);
  const paths = ShownPaths.hiding(project.files, project.root, prepared.mask.needles);
  const receipt = makeReceipt({
    bundle: bundle.name,
    stage: prepared.stage.name,
    builtAt: world.now().toISOString(),
    adder: VERSION,
    command: shownCommand(prepared, start.command),
    values: await receiptValues(project, { ...prepared, bundle }, { key, files, paths, ...start }),
    others: otherValues({ ...prepared, bundle }, key),
    contract: sha256(project.files.read(project.contractPath)),
    ...(start.revision && { revision: start.revision }),
    tools: toolVersions(project, bundle),
    key: keyMark(key),
    ...(untouched.length > 0 && { untouched: untouched.map((path) => paths.of(path)) }),
    digests: new Map(files.map((path) => [paths.of(path), project.files.digest(path)])),
    sizes: new Map(files.map((path) => [paths.of(path), project.files.stat(path)?.size ?? 0])),
  });
  const stored = storeReceipt(project, receipt);
  return { receiptPath: project.files.shown(stored, project.root), files: files.length - untouched.length };
}

/** A builder may leave files that would be the same. Only with the values of the last build is that certain. */
function isRebuild(project: Project, { bundle, stage, given }: PreparedBuild, key: Uint8Array): boolean {
  const last = bundle && newestReceipt(project, bundle.name).stored?.receipt.predicate;
  if (!last || last.stage !== stage.name || last.values.length !== given.size) return false;
  return last.values.every(({ name, fingerprint: before }) => {
    const value = given.get(name)?.value;
    return value !== undefined && fingerprint(key, name, value) === before;
  });
}

async function receiptValues(
  project: Project,
  { stage, bundle, given }: Pick<PreparedBuild, 'stage' | 'given'> & { bundle: Bundle },
  {
    key,
    files,
    paths,
    started,
    entries,
  }: Pick<BuildStart, 'started' | 'entries'> & { key: Uint8Array; files: readonly string[]; paths: ShownPaths },
): Promise<ReceiptValue[]> {
  // The times of files are coarse.
  const uses = readUses(project, bundle.name, started - 1000);
  // A plugin records what the build inlines, and not what a server fills in.
  const needsReads = !uses || toolchainOf(bundle).reads.some(({ time, side }) => time === 'run' && side === 'any');
  const reads = needsReads ? (await import('./expected.js')).readersOf(project, bundle) : undefined;
  const places = await heldPlaces(files, given, stage, paths);
  return [...given.values()].map(({ variable, value, from }) => ({
    name: variable.name,
    reach: variable.reach,
    readAs: readName(bundle, variable),
    fingerprint: fingerprint(key, variable.name, value),
    ...(entries.has(variable.name) && { entry: entries.get(variable.name) as string }),
    ...(from && { from: receiptSource(from) }),
    delivery: variable.delivery,
    places: places.get(variable.name) ?? [],
    ...(weakness(reveal(value)) !== undefined && { isUnsought: true as const }),
    ...modulesOf(variable, uses, reads),
  }));
}

/** The modules that read a value; absent if that is not known for certain. */
function modulesOf(
  { name, reach }: Variable,
  uses: Readonly<Record<string, string[]>> | undefined,
  reads: Readers | undefined,
): Pick<ReceiptValue, 'modules' | 'isReadAtStart'> {
  if (uses && Object.hasOwn(uses, name)) return { modules: uses[name] as string[] };
  const modules = [...(reads?.modules.get(name) ?? [])];
  if (reads?.atStart.has(name)) return { modules, isReadAtStart: true };
  if (uses) return {};
  if (modules.length > 0) return { modules };
  return reads?.isComplete && reach === 'public' && !reads.elsewhere.has(name) ? { modules: [] } : {};
}

/** Where the artifacts hold the values that were given. A build value is in them too if the build inlines it. */
async function heldPlaces(
  files: readonly string[],
  given: ReadonlyMap<string, GivenValue>,
  stage: Stage,
  paths: ShownPaths,
): Promise<Map<string, HeldPlace[]>> {
  const sought = [...given.values()].filter(({ value }) => !weakness(reveal(value)));
  const plan = planForValues(
    sought.map(({ variable: { name: variable, reach }, value }) => {
      const owner: Owner = { role: 'present', variable, reach, stage: stage.name };
      return { owner, value: reveal(value) };
    }),
  );
  const search = new ArtifactSearch(plan);
  const places = new Map<string, HeldPlace[]>();
  for (const file of files) {
    const artifact = new FileArtifact(file, 'browser', paths);
    for (const { owner, start, end, inside } of await presentIn(search, artifact, stage)) {
      const where = { path: artifact.name, ...(inside.length > 0 && { inside: [...inside] }) };
      const place = { ...where, offset: start, length: end - start };
      places.set(owner.variable, [...(places.get(owner.variable) ?? []), place]);
    }
  }
  return places;
}

/** The values in an artifact and in the files of an archive. Sources that a source map embeds do not ship. */
async function presentIn(
  search: ArtifactSearch,
  artifact: FileArtifact,
  stage: Stage,
): Promise<ArtifactResult['present']> {
  if (/\.map$/.test(artifact.fileName))
    return (await search.presentIn(artifact)).map((hit) => ({ ...hit, inside: [] }));
  return (await search.search(artifact, { stage: stage.name, audience: 'browser' })).present;
}

/** A command as it may be shown and kept: a value among its words is masked. */
export function shownCommand({ mask }: Pick<PreparedBuild, 'mask'>, command: readonly string[]): string[] {
  const secrets = new TextMask(matcherFor(mask.needles));
  return command.map((word) => secrets.mask(word));
}
