import type { CheckResult, Coverage } from '../core/findings/check.js';
import { planSearch, type SearchPlan } from '../core/inspect/plan.js';
import { ArtifactSearch, markTable } from '../core/inspect/search.js';
import { TextMask } from '../core/mask/text-mask.js';
import type { ScanThreads } from '../host/scan-ahead.js';
import { ShownPaths } from '../host/shown-paths.js';
import { Work } from '../host/work.js';
import { type ArtifactGroup, type ArtifactRequest, findArtifacts } from './artifacts.js';
import type { Check } from './check.js';
import { Inspection, type InspectionParts } from './inspection.js';
import { stageOfNewestReceipt } from './last-build.js';
import { looseValues } from './loose-files.js';
import { bundleOf, type Project, stageOf } from './open.js';
import { StageResolver } from './resolve.js';
import { scanAhead, startThreads } from './threads.js';

export interface InspectRequest extends ArtifactRequest {
  stage?: string;
  /** Number of threads; chosen by the input's size if absent. */
  threads?: number;
}

/** What an inspection found, and whether it was stopped before its end. */
export interface InspectResult extends CheckResult {
  /** The stage that the artifacts were inspected for. */
  stage: string;
  coverage: Coverage;
  isStopped: boolean;
}

/** Searches artifacts for values that must not be there, and for values of other stages and of earlier builds. */
export const inspect: Check<InspectRequest, Promise<InspectResult>> = async (project, request, world) => {
  const bundles =
    request.bundle === undefined ? [...project.contract.bundles.values()] : [bundleOf(project, request.bundle)];
  const stage = stageOf(project, request.stage ?? stageOfNewestReceipt(project, bundles));
  const groups = await findArtifacts(project, bundles, request, world);
  // Threads start while the values are resolved.
  const threads = await startThreads(groups, request.threads);
  const files = groups.reduce((sum, group) => sum + group.files.length, 0);
  const work = new Work(world, 'file', files);
  try {
    const resolver = new StageResolver(project, world);
    const { asked, all } = resolver.for(stage, 'with commands');
    const loose = looseValues(project);
    const plan = planSearch(project.contract, stage.name, all, loose.values);
    const inspection = new Inspection({
      ...(await preparedSearch(project, plan, { groups, threads, work })),
      project,
      resolution: asked,
      others: all.filter((one) => one !== asked),
      work,
      isWhole: request.paths.length === 0,
    });
    inspection.notSearched(resolver.unread, loose.unread);
    for (const group of groups) await inspection.group(group);
    return { ...inspection.result(plan.notSearched), isStopped: work.isStopped };
  } finally {
    work.end();
    await threads?.end();
  }
};

/** What a plan searches with: the matcher's table, names in reports, and the threads. */
async function preparedSearch(
  { files, root }: Project,
  plan: SearchPlan,
  { groups, threads, work }: { groups: readonly ArtifactGroup[]; threads: ScanThreads | undefined; work: Work },
): Promise<Pick<InspectionParts, 'search' | 'paths' | 'ahead'>> {
  const table = markTable(plan);
  const isSecret = (needle: number) => plan.needles[needle]?.owners.some(({ role }) => role === 'secret') === true;
  const paths = new ShownPaths(files, root, new TextMask(table.matcher, isSecret));
  const mask = (name: string) => paths.mask(name);
  const search = new ArtifactSearch(plan, { table, isStopped: (bytes) => work.turn(bytes), mask });
  return { search, paths, ahead: threads && (await scanAhead(groups, table, threads)) };
}
