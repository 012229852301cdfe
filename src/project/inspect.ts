import { homedir, hostname } from 'node:os';
import { besides, type Facts, type PartNumber } from '../core/conclude/facts.js';
import { conclude } from '../core/conclude/index.js';
import { ofOneShard } from '../core/conclude/shards.js';
import type { Bundle, Contract } from '../core/contract/contract.js';
import { contractFor, hasOwnLayers } from '../core/contract/scopes.js';
import { lastName } from '../core/files/directories.js';
import type { CheckResult, Coverage } from '../core/findings/check.js';
import { unknownSecrets } from '../core/inspect/expected.js';
import { markTable } from '../core/inspect/mark-table.js';
import { withHistory } from '../core/inspect/past-coverage.js';
import { planSearch, type SearchPlan } from '../core/inspect/plan.js';
import { ArtifactSearch } from '../core/inspect/search.js';
import { TextMask } from '../core/mask/text-mask.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { oncePer } from '../core/text/once.js';
import type { ScanThreads } from '../host/scan-threads.js';
import { ShownPaths } from '../host/shown-paths.js';
import { Work } from '../host/work.js';
import type { World } from '../host/world.js';
import { type ArtifactGroup, type ArtifactRequest, bytesIn, findArtifacts } from './artifacts.js';
import { changesSinceBuilds } from './changes.js';
import type { Check } from './check.js';
import { type ProjectHistory, projectHistory, unreadEntries } from './history.js';
import { Inspection, type InspectionParts } from './inspection.js';
import { stageOfBuild, stageOfNewestReceipt } from './last-build.js';
import { type LooseValues, looseValues } from './loose-files.js';
import { bundleOf, type Project, stageOf } from './open.js';
import { listingOf, partOf } from './part.js';
import { otherScopes, StageResolver } from './resolve.js';
import { scanAhead, startThreads } from './threads.js';

export interface InspectRequest extends ArtifactRequest {
  stage?: string;
  /** List the files that were checked, and the public values in them. */
  contents?: boolean;
  /** The artifacts, if they are known already. */
  found?: readonly ArtifactGroup[];
  /** Only this part of the outputs; the others are inspected elsewhere. */
  part?: PartNumber;
  /** Number of threads; chosen by the input's size if absent. */
  threads?: number;
}

/** Result of an inspection, which may have been stopped before its end. */
export interface InspectResult extends CheckResult {
  /** The stage that the artifacts were inspected for. */
  stage: string;
  coverage: Coverage;
  /** If only a part of the outputs was inspected: what all parts together are concluded from. */
  facts?: Facts;
  isStopped: boolean;
}

/** Searches artifacts for values that must not be there, and for values of other stages and of earlier builds. */
export const inspect: Check<InspectRequest, Promise<InspectResult>> = async (project, request, world) => {
  const bundles =
    request.bundle === undefined ? [...project.contract.bundles.values()] : [bundleOf(project, request.bundle)];
  const { name: stage } = stageOf(project, request.stage ?? stageOfNewestReceipt(project, bundles, 'inspect'));
  const all = request.found ?? (await findArtifacts(project, bundles, request, world));
  const groups = request.part ? partOf(all, request.part) : all;
  const files = groups.flatMap((group) => group.files);
  const work = new Work(world, 'file', files.length, bytesIn(groups));
  try {
    const scopes: Facts[] = [];
    for (const { bundle, contract, groups: ofScope } of byScope(project, groups)) {
      const part = { project: { ...project, contract }, others: otherScopes(project, bundle, world), stage };
      scopes.push(await factsOfScope(part, ofScope, { request, work, world }));
    }
    const built = stageOfBuild(project, bundles);
    const facts: Facts = {
      ...scopes.reduce(besides),
      isAll: request.paths.length === 0 && request.bundle === undefined && !work.isStopped,
      ...(built !== undefined && { builtStage: built }),
      shards: request.part ? [{ ...request.part, listing: listingOf(all, project) }] : [],
    };
    const result = conclude(request.part ? ofOneShard(facts) : facts);
    return { ...result, coverage: facts.coverage, ...(request.part && { facts }), stage, isStopped: work.isStopped };
  } finally {
    work.end();
  }
};

/** The home directory and the project's own, as far as they differ from what every machine has. */
function directoriesOf({ root }: Project): string[] {
  return [...new Set([homedir(), root])];
}

/**
 * Makes the search plan for artifacts of a stage.
 * @param all every stage @param others stages of parts of the project with other layers
 */
export function planFor(
  project: Project,
  stage: string,
  all: readonly Resolution[],
  others: readonly Resolution[],
): { plan: SearchPlan; loose: LooseValues; history: ProjectHistory } {
  const loose = looseValues(project);
  const history = projectHistory(project, [...all, ...others]);
  const plan = planSearch(project.contract, stage, all, {
    loose: loose.values,
    others,
    past: history.values,
    directories: directoriesOf(project),
    hostNames: [hostname()].filter((name) => !/^localhost\b/.test(name)),
  });
  return { plan, loose, history };
}

/** The artifacts of each part of the project that has layers of its own; without a bundle, those of the stages. */
function byScope(
  { contract }: Project,
  groups: readonly ArtifactGroup[],
): { bundle: Bundle | undefined; contract: Contract; groups: ArtifactGroup[] }[] {
  const owners = new Map<string, Bundle | undefined>();
  const keyOf = ({ bundle }: ArtifactGroup) => (bundle && hasOwnLayers(bundle) ? bundle.name : '');
  for (const group of groups) owners.set(keyOf(group), keyOf(group) === '' ? undefined : group.bundle);
  return [...owners].map(([key, bundle]) => ({
    bundle,
    contract: contractFor(contract, bundle),
    groups: groups.filter((group) => keyOf(group) === key),
  }));
}

interface InspectedOutput {
  project: Project;
  stage: string;
  /** Stages with the layers of the other parts: their secrets must not be in this one. */
  others: readonly Resolution[];
}

/** Collects the facts of artifacts that get their values from the same layers. */
async function factsOfScope(
  { project, stage: name, others }: InspectedOutput,
  groups: readonly ArtifactGroup[],
  { request, work, world }: { request: InspectRequest; work: Work; world: World },
): Promise<Facts> {
  // Threads start while the values are resolved.
  const threads = await startThreads(groups, request.threads);
  try {
    const resolver = new StageResolver(project, world);
    const { asked, all } = resolver.for(stageOf(project, name), 'with commands');
    const { plan, loose, history } = planFor(project, name, all, others);
    // The parser is loaded, and the code parsed once, only if a finding needs it.
    const codeOf = oncePer(async (bundle: Bundle) => (await import('./lint.js')).readCode(project, [bundle], world));
    const inspection = new Inspection({
      ...(await preparedSearch(project, plan, { groups, threads, work })),
      project,
      resolution: asked,
      others: all.filter((one) => one !== asked),
      fileNames: namesOf(groups),
      work,
      // A page of all parts together needs those of each.
      withContents: request.contents === true || request.part !== undefined,
      readPlaces: async (bundle) => {
        const { readPlaces } = await import('./expected.js');
        return readPlaces(project, bundle, await codeOf(bundle));
      },
      writtenText: async (bundle, texts) => {
        const { writtenText } = await import('./expected.js');
        return writtenText(await codeOf(bundle), texts);
      },
    });
    inspection.notSearched(resolver.unread, loose.unread);
    for (const group of groups) await inspection.group(group);
    const ofStage = [asked, ...others.filter((one) => one.stage.name === name)];
    const unknown = unknownSecrets(name, ofStage, [...all, ...others]);
    const known = withHistory(name, unknown, history, project.contract.history.isRequired);
    inspection.unreadEntries(unreadEntries(project, history));
    const facts = inspection.facts({ ...known, notSearched: [...plan.notSearched, ...known.notSearched] });
    const whole = new Set(groups.flatMap(({ bundle, isWhole }) => (bundle && isWhole ? bundle.name : [])));
    if (whole.size === 0) return facts;
    const since = changesSinceBuilds(inspection.builds, name, (bundle) => (whole.has(bundle.name) ? asked : undefined));
    return { ...facts, since };
  } finally {
    await threads?.end();
  }
}

function namesOf(groups: readonly ArtifactGroup[]): Set<string> {
  const files = groups.flatMap(({ files: own, elsewhere = [], skipped }) => [...own, ...elsewhere, ...skipped]);
  return new Set(files.map(({ path }) => lastName(path.replaceAll('\\', '/'))));
}

/** Search state made from a plan: the matcher's table, names in reports, and the threads. */
async function preparedSearch(
  { files, root }: Project,
  plan: SearchPlan,
  { groups, threads, work }: { groups: readonly ArtifactGroup[]; threads: ScanThreads | undefined; work: Work },
): Promise<Pick<InspectionParts, 'search' | 'paths' | 'ahead'>> {
  const table = markTable(plan, bytesIn(groups));
  const isSecret = (needle: number) => plan.needles.at(needle)?.owners.some(({ role }) => role === 'secret') === true;
  const paths = new ShownPaths(files, root, new TextMask(table.matcher, isSecret));
  const mask = (name: string) => paths.mask(name);
  const search = new ArtifactSearch(plan, { table, isStopped: (bytes) => work.turn(bytes), mask, now: Date.now });
  return { search, paths, ahead: await scanAhead(groups, table, threads) };
}
