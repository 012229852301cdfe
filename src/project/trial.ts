import { existsSync, readFileSync } from 'node:fs';
import { Writable } from 'node:stream';
import { givenValues, readName } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import { isSkippedDirectory } from '../core/files/directories.js';
import { within } from '../core/files/within.js';
import type { Coverage } from '../core/findings/check.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import { planMask } from '../core/mask/plan.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { isIn } from '../core/text/ranges.js';
import { isForeignName } from '../core/toolchains/known-names.js';
import { isReadLate } from '../core/toolchains/read-from.js';
import { codePlaceText, concludeTrial, type TrialOf } from '../core/trial/conclude.js';
import { hiddenNames, withUnhidden } from '../core/trial/hidden.js';
import type { TrialResult } from '../core/trial/kept.js';
import { type Asked, askedFor, type CodePlace, type ObservedLine, observedLines } from '../core/trial/observed.js';
import { withSlashes } from '../host/files.js';
import { copyProject, type LeftOut, type ProjectCopy } from '../host/trial/copy.js';
import { Repository } from '../host/version-control.js';
import type { World } from '../host/world.js';
import { noCommand, notStarted } from './build.js';
import { type ProjectCode, readCode } from './lint.js';
import { chooseBundle, type Project, stageOf } from './open.js';
import { StageResolver } from './resolve.js';
import { arrivalsIn, type BuiltFiles, builtFiles, type CopyState, stateOf } from './trial-arrivals.js';
import { type MarkedBuild, Markers } from './trial-markers.js';

export interface TrialRequest {
  stage: string;
  bundle?: string | undefined;
  /** The words of the command; the bundle's own one if absent. */
  command?: readonly string[] | undefined;
  /** Variables that get their real values. */
  real: readonly string[];
  /** Gets the build's output, masked. */
  log: NodeJS.WritableStream;
}

/** A trial build, before anything is concluded from it. */
export interface TrialBuilt extends Omit<TrialOf, 'contract'> {
  project: Project;
  coverage: Coverage;
}

/** The most of a build's log that is searched, in bytes. */
const MOST_LOG = 16 * 2 ** 20;

/**
 * Builds a copy of the project with made-up values, and finds where each arrives. The project's own files are not touched.
 * @throws Failure if there is nothing to build, or the build fails
 */
export async function trial(project: Project, request: TrialRequest, world: World): Promise<TrialResult> {
  const { coverage, ...built } = await trialBuild(project, request, world);
  const { contract } = built.project;
  return {
    ...{ stage: built.stage.name, bundle: built.bundle.name, coverage },
    ...concludeTrial({ ...built, contract }),
    asked: built.evidence.asked.flatMap(({ name, at }) =>
      at.length > 0 && !isForeignName(name) ? [{ name, at: at.map(codePlaceText) }] : [],
    ),
  };
}

/**
 * Builds with made-up values, and gathers the evidence.
 * @param adjusted the project with what the build's files say of it, for one whose contract is a guess
 * @throws Failure if there is nothing to build, or the build fails
 */
export async function trialBuild(
  project: Project,
  request: TrialRequest,
  world: World,
  adjusted: (files: BuiltFiles) => Project = () => project,
): Promise<TrialBuilt> {
  const { contract } = project;
  const bundle = trialBundle(project, request, world);
  const stage = stageOf(project, request.stage);
  const command = commandOf(bundle, request);
  const { asked: resolution, all } = new StageResolver(project, world).for(stage);
  const readBy = readPlaces(await readCode(project, [bundle], world), bundle);
  // A name that only the build itself reads could change what it does, such as where it writes.
  const read = [...readBy].flatMap(([name, { ships }]) => (ships ? [name] : []));
  const of = { stage, bundle, resolution, all, read, real: request.real, command, log: request.log };
  const widest = await builtCopy(project, { ...of, without: new Set() }, world, adjusted);
  const given = new Set(
    [...givenValues(contract, bundle, resolution).values()].map(({ variable }) => readName(bundle, variable)),
  );
  const built = { ...widest, stage, bundle, resolution, readBy, given };
  const hidden = hiddenNames(built);
  if (hidden.size === 0) return built;
  // In the environment these hid their values in files, which `adder with` would not hide.
  const second = await builtCopy(project, { ...of, without: hidden }, world, adjusted);
  return { ...built, evidence: withUnhidden(widest.evidence, second.evidence, hidden) };
}

/** @throws Failure if the contract has no bundle, or several and none is named */
export function trialBundle(project: Project, { bundle: named }: TrialRequest, { cwd }: Pick<World, 'cwd'>): Bundle {
  const bundle = chooseBundle(project, named, cwd);
  if (bundle) return bundle;
  throw new Failure('a trial needs a bundle, and the contract has none', 'add one under `bundles`');
}

/** Builds one copy, and searches what it wrote. */
async function builtCopy(
  project: Project,
  of: MarkedBuild & { log: NodeJS.WritableStream },
  world: World,
  adjusted: (files: BuiltFiles) => Project,
): Promise<Pick<TrialBuilt, 'project' | 'evidence' | 'coverage'>> {
  const { root } = project;
  const { stage, resolution, all, command } = of;
  const markers = new Markers(project, of);
  const top = Repository.at(root)?.top ?? root;
  const leftOut = leftOutOf(project, markers);
  const copy = copyProject(root, top, leftOut);
  try {
    markers.writeFiles(copy, top, leftOut);
    const env = { ...markers.environment(world), ...observing(copy, world) };
    const before = stateOf(project, copy.top);
    const log = await build(project, { copy, before, command, env, all, resolution, log: of.log }, world);
    const known = adjusted(builtFiles(project, copy, before));
    const { coverage, ...found } = await arrivalsIn(known, copy, { stage, markers: markers.placed, before, log });
    const asked = askedIn(project, copy, before);
    return {
      project: known,
      evidence: { markers: markers.placed, unmarked: [...markers.unmarked], asked, ...found },
      coverage,
    };
  } finally {
    copy.remove();
  }
}

/** The words of the command that builds. @throws Failure if there is none */
export function commandOf(bundle: Bundle, { stage, command = bundle.build }: TrialRequest): string[] {
  if (!command || command.length === 0) throw noCommand('trial', stage);
  return command.map((word) => word.replaceAll('{stage}', stage));
}

/** Names that code of a bundle reads in a build, each with a place: in what ships, or else in any other file. */
function readPlaces({ context }: ProjectCode, bundle: Bundle): Map<string, CodePlace & { ships: boolean }> {
  const found = new Map<string, CodePlace & { ships: boolean }>();
  const code = context.bundles.find((one) => one.bundle === bundle);
  const add = (path: string, isLeft: boolean) => {
    const file = context.files.get(path);
    const parts = code?.serverParts.get(path) ?? [];
    for (const { name, object, start, nameStart, kind } of file?.reads ?? []) {
      if (!file || name === undefined || isReadLate(object) || kind === 'assigned') continue;
      const ships = !isLeft && !isIn(parts, start);
      if (!found.has(name) || (ships && !found.get(name)?.ships))
        found.set(name, { path, line: context.at(file, nameStart).line, ships });
    }
  };
  for (const path of context.files.keys()) add(path, code?.shipped.has(path) !== true);
  return found;
}

/** A copy has no outputs of bundles, state and caches, and no file with real values. */
function leftOutOf(project: Project, markers: Markers): LeftOut {
  return { folder: isLeftOut(project), file: (path) => markers.holdsValues(path) };
}

/** Tells whether a trial leaves a directory out. The function gets absolute paths. */
export function isLeftOut({ files, root, contract }: Project): (path: string) => boolean {
  const isOutput = within([...contract.bundles.values()].flatMap(({ output }) => output));
  return (path) => {
    const shown = files.shown(path, root);
    return isSkippedDirectory(shown) || isOutput(shown);
  };
}

/** Variables that make Node.js note which names it is asked for. */
function observing(copy: ProjectCopy, { env, files }: World): Record<string, string> {
  // Beside the program, where the build of this package puts it.
  const observer = files.path.join(import.meta.dirname, 'observe.cjs');
  return {
    NODE_OPTIONS: [env.NODE_OPTIONS, `--require ${JSON.stringify(observer)}`].filter(Boolean).join(' '),
    ADDER_TRIAL_OBSERVED: copy.observed,
  };
}

interface TrialBuild {
  copy: ProjectCopy;
  before: CopyState;
  command: readonly string[];
  env: Record<string, string>;
  all: readonly Resolution[];
  resolution: Resolution;
  log: NodeJS.WritableStream;
}

/** @returns the build's output @throws Failure with the names that the project's files asked for, if it fails */
async function build(
  project: Project,
  { copy, before, command, env, all, resolution, log }: TrialBuild,
  world: World,
): Promise<Uint8Array> {
  const { path } = project.files;
  const [program = '', ...args] = command;
  const cwd = path.resolve(copy.root, path.relative(project.root, world.cwd));
  const kept = new KeptLog(log);
  const output = { stdout: kept.stream(), stderr: kept.stream() };
  const mask = planMask(project.contract, resolution, all);
  const place = existsSync(cwd) ? cwd : copy.root;
  const ended = await world.processes.run({ command: program, args, env, cwd: place, mask, output }, world);
  if (ended.code === EXIT.fine) return kept.bytes();
  if (ended.failedToStart) throw notStarted(program, ended.failedToStart, ended.code);
  if (ended.interrupted) throw new Failure('the trial was stopped', 'run it again', ended.code);
  const asked = askedIn(project, copy, before).flatMap(({ name, at: [first] }) =>
    first ? [`${name} (${codePlaceText(first)})`] : [],
  );
  const until = asked.length > 0 ? `; until then the project's files asked for ${asked.join(', ')}` : '';
  throw new Failure(
    `the build failed with made-up values, with exit code ${ended.code}${until}`,
    'see its output above; if it needs the real value of a variable, pass --real NAME',
    EXIT.findings,
  );
}

/** Passes a build's output on, and keeps its beginning. */
class KeptLog {
  readonly #chunks: Buffer[] = [];
  #size = 0;

  constructor(readonly to: NodeJS.WritableStream) {}

  stream(): Writable {
    return new Writable({
      write: (chunk: Buffer, _, done) => {
        this.#size += chunk.length;
        if (this.#size <= MOST_LOG) this.#chunks.push(chunk);
        this.to.write(chunk);
        done();
      },
    });
  }

  bytes(): Uint8Array {
    return Buffer.concat(this.#chunks);
  }
}

/** The names that the build asked for. Files that it wrote are none of the project's. */
function askedIn({ files }: Project, copy: ProjectCopy, before: CopyState): Asked[] {
  if (!existsSync(copy.observed)) return [];
  const root = files.fs.realpathSync(copy.root);
  const lines = observedLines(readFileSync(copy.observed, 'utf8')).map(ofConfiguration);
  return askedFor(lines, (file) =>
    before.has(file) ? withSlashes(files.path.relative(root, file), files.path) : undefined,
  );
}

/** Vite runs its configuration from a bundled copy, whose lines are other ones. */
function ofConfiguration(one: ObservedLine): ObservedLine {
  const [, folder, name] = /^(.*)[\\/]node_modules[\\/]\.vite-temp[\\/](.+)\.timestamp-/.exec(one.file) ?? [];
  return name === undefined ? one : { ...one, file: `${folder}/${name}`, line: 0 };
}
