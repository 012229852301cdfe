import { existsSync, readFileSync } from 'node:fs';
import { Writable } from 'node:stream';
import { DEFINES, definesPath } from '../core/emit/defines.js';
import { isSkippedDirectory } from '../core/files/directories.js';
import { within } from '../core/files/within.js';
import type { Coverage } from '../core/findings/check.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import { planMask } from '../core/mask/plan.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { codePlaceText } from '../core/trial/conclude.js';
import type { OutputDigests } from '../core/trial/difference.js';
import type { Evidence } from '../core/trial/evidence.js';
import { type Asked, askedFor, type ObservedLine, observedLines } from '../core/trial/observed.js';
import { withSlashes } from '../host/files.js';
import { copyProject, inPlace, type LeftOut, type ProjectCopy } from '../host/trial/copy.js';
import { Repository } from '../host/version-control.js';
import type { World } from '../host/world.js';
import { notStarted } from './build.js';
import type { Project } from './open.js';
import {
  arrivalsIn,
  type BuiltFiles,
  type CopyState,
  outputDigests,
  shownIn,
  stateOf,
  writtenIn,
} from './trial-arrivals.js';
import { type MarkedBuild, Markers } from './trial-markers.js';

/** A copy to build. */
export interface CopyRequest extends MarkedBuild {
  /** Gets the build's output, masked. */
  log: NodeJS.WritableStream;
  /** Tells whether the output is compared with that of another build. */
  isCompared: boolean;
}

/** A copy that was built, as far as a trial needs it. */
export interface BuiltCopy {
  /** The project with what the build's files say of it. */
  project: Project;
  evidence: Evidence;
  coverage: Coverage;
  /** None unless outputs are compared. */
  digests: OutputDigests;
}

/** The most of a build's log that is searched, in bytes. */
const MOST_LOG = 16 * 2 ** 20;

/** Builds one copy, and searches what it wrote. */
export async function builtCopy(
  project: Project,
  of: CopyRequest,
  world: World,
  adjusted: (files: BuiltFiles) => Project = () => project,
): Promise<BuiltCopy> {
  const { root } = project;
  const { stage, resolution, all } = of;
  const markers = new Markers(project, of);
  const top = Repository.at(root)?.top ?? root;
  const leftOut = leftOutOf(project, markers);
  const copy = of.isInPlace ? inPlace(root, top) : copyProject(root, top, leftOut);
  try {
    markers.writeFiles(copy, top, leftOut);
    const env = { ...markers.environment(world), ...observing(copy, world) };
    const command = withDefines(project, of, copy, markers);
    const before = stateOf(project, copy.top);
    const log = await build(project, { copy, before, command, env, all, resolution, log: of.log }, world);
    const written = writtenIn(project, copy, before);
    const known = adjusted({
      written: written.map(({ shown }) => shown),
      before: [...before.keys()].map(shownIn(project, copy)),
    });
    const { coverage, ...found } = await arrivalsIn(known, copy, { stage, markers: markers.placed, written, log });
    const asked = askedIn(project, copy, before);
    const digests = of.isCompared ? outputDigests(known, copy, written) : new Map();
    return {
      project: known,
      evidence: {
        markers: markers.placed,
        unmarked: [...markers.unmarked],
        unmarkedAt: markers.unmarkedAt,
        asked,
        ...found,
      },
      coverage,
      digests,
    };
  } finally {
    copy.remove();
  }
}

/** The command with the define file of the copy, if it takes one. @returns its words */
function withDefines(
  { files }: Project,
  { stage, bundle, command }: CopyRequest,
  copy: ProjectCopy,
  markers: Markers,
): readonly string[] {
  if (!command.some((word) => word.includes(DEFINES))) return command;
  const { join, relative } = files.path;
  const path = join(copy.root, definesPath(bundle.name, stage.name));
  copy.write(relative(copy.top, path), markers.defineFile());
  return command.map((word) => word.replaceAll(DEFINES, path));
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
