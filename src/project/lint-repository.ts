import type { LintFinding } from '../core/lint/model.js';
import type { World } from '../host/world.js';
import type { LintedCode } from './lint.js';
import type { Project } from './open.js';

/** What the repository lets out. */
export async function lintRepository(_project: Project, _code: LintedCode, _world: World): Promise<LintFinding[]> {
  return [];
}
