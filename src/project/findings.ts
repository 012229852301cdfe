import { rulesOf } from '../core/contract/rules.js';
import type { CheckResult } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import type { Finding } from '../core/findings/finding.js';
import { findingsReport } from '../core/report/findings.js';
import { today, type World } from '../host/world.js';
import { inspect } from './inspect.js';
import { checkCode } from './lint.js';
import type { Project } from './open.js';
import { checkRepository } from './repository.js';
import { checkValues } from './values.js';

export interface CurrentFindings {
  findings: Finding[];
  /** Why the artifacts were not inspected, if they were not. */
  notInspected?: string;
}

/**
 * All findings of a project now: of its values, its code and repository, and its built files. Each check is judged alone, as its own
 * command does, so the fingerprints are those that reports show.
 * @param stage for which artifacts are inspected; the stage of the newest receipt if absent
 */
export async function currentFindings(
  project: Project,
  { stage }: { stage?: string | undefined },
  world: World,
): Promise<CurrentFindings> {
  const code = await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world);
  const lint = [code, await checkRepository(project, code, world)];
  const { result, because } = await artifacts(project, stage, world);
  const judged = [[checkValues(project, {}, world)], lint, ...(result ? [[result]] : [])].map(
    (checks) => findingsReport({ command: 'accept' }, checks, rulesOf(project.contract), today(world)).findings,
  );
  return { findings: judged.flat(), ...(because !== undefined && { notInspected: because }) };
}

/** A project that was not built yet still has values and code. */
async function artifacts(
  project: Project,
  stage: string | undefined,
  world: World,
): Promise<{ result?: CheckResult; because?: string }> {
  const request = { paths: [], caches: false, packages: false, ...(stage !== undefined && { stage }) };
  try {
    return { result: await inspect(project, request, world) };
  } catch (error) {
    if (!(error instanceof Failure) || stage !== undefined) throw error;
    return { because: error.message };
  }
}
