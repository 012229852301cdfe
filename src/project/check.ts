import type { CheckResult } from '../core/findings/check.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';

/**
 * A check of a project. Values, code, repository, artifacts and the preflight of a build have this one type, so any number
 * of them can be joined in one report (`findingsReport`), which judges their findings once.
 * `request` says what is checked. A check may return more than a result, for what its command shows besides findings.
 * @throws Failure if the request is wrong, or if a file that the check needs cannot be read
 */
export type Check<Request, Result extends CheckResult | Promise<CheckResult> = Promise<CheckResult>> = (
  project: Project,
  request: Request,
  world: World,
) => Result;
