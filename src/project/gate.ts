import type { CheckResult } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import type { GatePart } from '../core/report/gate.js';
import type { World } from '../host/world.js';
import { type InspectRequest, inspect } from './inspect.js';
import { checkCode } from './lint.js';
import type { Project } from './open.js';
import { checkRepository } from './repository.js';
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
  const { stage } = request;
  const values = checkValues(project, { stage }, world);
  const code = await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world);
  const repository = await checkRepository(project, code, world);
  const built = await builtFiles(project, request, world);
  return {
    parts: [{ part: 'values', checks: [values] }, { part: 'code and repository', checks: [code, repository] }, built],
    isStopped: built.isStopped,
  };
}

async function builtFiles(
  project: Project,
  request: GateRequest,
  world: World,
): Promise<GatePart & { isStopped: boolean }> {
  const part = 'built files';
  try {
    const { isStopped, ...result } = await inspect(project, { ...request, paths: [] }, world);
    const checks: CheckResult[] = [result];
    return { part, checks, isStopped };
  } catch (error) {
    // A contract without outputs still has values and code.
    if (!(error instanceof Failure) || [...project.contract.bundles.values()].some(({ output }) => output.length > 0))
      throw error;
    return { part, checks: [], because: error.message, isStopped: false };
  }
}
