import type { CheckResult } from '../core/findings/check.js';
import type { GatePart } from '../core/report/gate.js';
import type { World } from '../host/world.js';
import { type ArtifactGroup, findArtifacts } from './artifacts.js';
import { type InspectRequest, inspect } from './inspect.js';
import { type LintThread, lintChecks, lintInThread } from './lint-thread.js';
import type { Project } from './open.js';
import { checkValues } from './values.js';

export interface GateRequest extends Pick<InspectRequest, 'caches' | 'packages' | 'threads' | 'contents'> {
  stage: string;
}

/** All checks of a project for one stage: values, code, repository, and built files with their receipts. */
export async function checkAll(
  project: Project,
  request: GateRequest,
  world: World,
): Promise<{ parts: GatePart[]; isStopped: boolean }> {
  const outputs = await outputsOf(project, request, world);
  const bytes = (outputs.found ?? []).flatMap(({ files }) => files).reduce((sum, file) => sum + file.bytes, 0);
  // Code and built files are checked at the same time.
  const thread = request.threads === 1 ? undefined : lintInThread(project, world, bytes);
  try {
    const values = checkValues(project, { stage: request.stage }, world);
    const built = await builtFiles(project, request, outputs, world);
    const isStopped = built.isStopped;
    const lint = isStopped ? [] : await lintOf(project, thread, world);
    return {
      parts: [
        { part: 'values', checks: [values] },
        { part: 'code and repository', checks: lint, ...(isStopped && { because: 'stopped before its end' }) },
        {
          part: 'built files',
          checks: built.checks,
          ...(outputs.because !== undefined && { because: outputs.because }),
        },
      ],
      isStopped,
    };
  } finally {
    await thread?.end();
  }
}

/** If the thread failed, the checks run here, and fail here if there is a reason. */
async function lintOf(project: Project, thread: LintThread | undefined, world: World): Promise<CheckResult[]> {
  try {
    return thread ? await thread.checks : await lintChecks(project, world);
  } catch (error) {
    if (!thread) throw error;
    return lintChecks(project, world);
  }
}

interface Outputs {
  found?: ArtifactGroup[];
  /** Why there are none. */
  because?: string;
}

/** A contract without outputs still has values and code. */
async function outputsOf(project: Project, request: GateRequest, world: World): Promise<Outputs> {
  const bundles = [...project.contract.bundles.values()];
  if (bundles.every(({ output }) => output.length === 0)) return { because: 'no bundle of the contract has an output' };
  return { found: await findArtifacts(project, bundles, { ...request, paths: [] }, world) };
}

async function builtFiles(
  project: Project,
  request: GateRequest,
  { found }: Outputs,
  world: World,
): Promise<{ checks: CheckResult[]; isStopped: boolean }> {
  if (!found) return { checks: [], isStopped: false };
  const { isStopped, ...result } = await inspect(project, { ...request, found, paths: [] }, world);
  return { checks: [result], isStopped };
}
