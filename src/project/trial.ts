import { givenName, givenValues, readName } from '../core/build/environment.js';
import type { Bundle } from '../core/contract/contract.js';
import { sideOfPath } from '../core/files/side.js';
import { within } from '../core/files/within.js';
import type { Coverage } from '../core/findings/check.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import type { Read } from '../core/reads/read.js';
import { groupBy } from '../core/text/group-by.js';
import { once } from '../core/text/once.js';
import { isIn } from '../core/text/ranges.js';
import { isForeignName } from '../core/toolchains/known-names.js';
import { isReadLate } from '../core/toolchains/read-from.js';
import { codePlaceText, concludeTrial, type ReadPlaces, type TrialOf } from '../core/trial/conclude.js';
import { disputedNames, hiddenNames, overriddenNames, withUnhidden } from '../core/trial/hidden.js';
import type { TrialResult } from '../core/trial/kept.js';
import type { World } from '../host/world.js';
import { noCommand } from './build.js';
import { type ProjectCode, readCode } from './lint.js';
import { chooseBundle, type Project, stageOf } from './open.js';
import { choicesOf } from './preflight.js';
import { StageResolver } from './resolve.js';
import type { BuiltFiles } from './trial-arrivals.js';
import { type BuiltCopy, builtCopy, type CopyRequest } from './trial-copy.js';
import { compared } from './trial-twice.js';

export interface TrialRequest {
  stage: string;
  bundle?: string | undefined;
  /** The words of the command; the bundle's own one if absent. */
  command?: readonly string[] | undefined;
  /** Variables that get their real values. */
  real: readonly string[];
  /** Gets the build's output, masked. */
  log: NodeJS.WritableStream;
  /** Tells whether values without room for a marker are followed by building again with others. */
  twice?: boolean;
  /** Tells whether the project itself is built, and not a copy. */
  inPlace?: boolean;
}

/** A trial build, before anything is concluded from it. */
export interface TrialBuilt extends Omit<TrialOf, 'contract'> {
  project: Project;
  coverage: Coverage;
}

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
  const code = await readCode(project, [bundle], world);
  const readBy = readPlaces(code, bundle);
  const read = namesToGive(project, readBy, bundle);
  const isCompared = request.twice === true;
  const of: CopyRequest = {
    ...{ stage, bundle, resolution, all, read, real: request.real, command, log: request.log, isCompared },
    choosing: choicesOf(project, bundle, command),
    ...{
      without: new Set(),
      also: new Set(),
      changed: new Set(),
      texts: new Map(),
      isInPlace: request.inPlace === true,
    },
  };
  const first = await builtCopy(project, of, world, adjusted);
  const { digests, ...widest } = isCompared ? await compared(first.project, of, first, world) : first;
  const given = new Set(
    [...givenValues(contract, bundle, resolution).values()].map(({ variable }) => readName(bundle, variable)),
  );
  const built = { ...widest, stage, bundle, resolution, readBy, given };
  const [hidden, disputed] = [hiddenNames(built), disputedNames({ ...built, contract })];
  if (hidden.size === 0 && disputed.size === 0) return built;
  const what = [
    ...(hidden.size > 0 ? [`without ${[...hidden].join(', ')}`] : []),
    ...(disputed.size > 0 ? [`with ${[...disputed].join(', ')}`] : []),
  ];
  request.log.write(`adder: building again, ${what.join(' and ')} in the environment, as \`adder with\` does\n`);
  const second = await builtAgain(
    project,
    { ...of, isCompared: false, without: hidden, also: disputed },
    world,
    adjusted,
  );
  if (!second) {
    request.log.write(`adder: that build failed, so the report is of the first one\n`);
    return built;
  }
  const evidence = withUnhidden(widest.evidence, second.evidence, hidden);
  return { ...built, evidence: { ...evidence, overridden: overriddenNames(second.evidence, disputed) } };
}

/** The build without what `adder with` withholds, which it may need. @returns undefined if it fails */
async function builtAgain(...args: Parameters<typeof builtCopy>): Promise<BuiltCopy | undefined> {
  try {
    return await builtCopy(...args);
  } catch (error) {
    if (error instanceof Failure && error.exitCode === EXIT.findings) return undefined;
    throw error;
  }
}

/** @throws Failure if the contract has no bundle, or several and none is named */
export function trialBundle(project: Project, { bundle: named }: TrialRequest, { cwd }: Pick<World, 'cwd'>): Bundle {
  const bundle = chooseBundle(project, named, cwd);
  if (bundle) return bundle;
  throw new Failure('a trial needs a bundle, and the contract has none', 'add one under `bundles`');
}

/** The words of the command that builds. @throws Failure if there is none */
export function commandOf(bundle: Bundle, { stage, command = bundle.build }: TrialRequest): string[] {
  if (!command || command.length === 0) throw noCommand('trial', stage);
  return command.map((word) => word.replaceAll('{stage}', stage));
}

/**
 * Names that code of a bundle reads, beside those of the contract, which have values anyway. A name that only the build itself reads could
 * change what it does, such as where it writes, so it is left out; if there is none of these, no import has to be followed.
 */
function namesToGive({ contract }: Project, readBy: TrialOf['readBy'], bundle: Bundle): string[] {
  const given = new Set([...contract.variables.values()].map((variable) => givenName(bundle, variable)));
  return [...readBy].flatMap(([name, places]) =>
    given.has(name) || isForeignName(name) || !places.shipped() ? [] : [name],
  );
}

/** Finds the places where code reads each name in a build. Imports are resolved only if a caller asks which places ship. */
function readPlaces({ context }: ProjectCode, bundle: Bundle): Map<string, ReadPlaces> {
  const all = [...context.files].flatMap(([path, file]) =>
    file.reads.flatMap((read) => {
      const { name, object, nameStart, kind } = read;
      if (name === undefined || isReadLate(object) || kind === 'assigned') return [];
      return { path, name, read, place: { path, line: context.at(file, nameStart).line } };
    }),
  );
  const ships = ({ path, read }: { path: string; read: Read }) => {
    const code = context.bundles.find((one) => one.bundle === bundle);
    return code?.shipped.has(path) === true && !isIn(code.serverParts.get(path) ?? [], read.start);
  };
  const isCode = within(bundle.code);
  const isLikely = ({ path }: { path: string }) => isCode(path) && sideOfPath(path) === undefined;
  return new Map(
    [...groupBy(all, ({ name }) => name)].map(([name, places]) => [
      name,
      {
        all: [...places.filter(isLikely), ...places.filter((one) => !isLikely(one))].map(({ place }) => place),
        shipped: once(() => places.find(ships)?.place),
      },
    ]),
  );
}
