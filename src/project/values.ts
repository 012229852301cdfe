import type { Bundle } from '../core/contract/contract.js';
import { type Scope, scopesOf, scopeWith } from '../core/contract/scopes.js';
import type { CheckResult } from '../core/findings/check.js';
import type { RawFinding } from '../core/findings/finding.js';
import { withoutRepeats } from '../core/findings/repeats.js';
import type { Resolution } from '../core/resolve/resolve.js';
import type { World } from '../host/world.js';
import type { Check } from './check.js';
import { type Project, stageOf } from './open.js';
import { StageResolver } from './resolve.js';

/** The values of one stage, or of all stages, for each part of the project with layers of its own. */
export interface ValuesCheck extends CheckResult {
  parts: readonly { scope: Scope; resolutions: readonly Resolution[] }[];
}

export interface ValuesRequest {
  /** All stages if absent. */
  stage?: string | undefined;
  /** Only the part with this bundle's layers. */
  bundle?: Bundle | undefined;
}

/** Codes that resolving checks completely. */
const VALUE_GROUPS = ['value/', 'file/', 'contract/', 'repo/misnamed'];

/** Checks the values of one stage; with no stage, those of all stages, also against each other. */
export const checkValues: Check<ValuesRequest, ValuesCheck> = (project, { stage, bundle }, world) => {
  const scopes = scopesOf(project.contract);
  const own = scopeWith(scopes, bundle);
  const asked = bundle === undefined ? scopes : scopes.filter((scope) => scope === own);
  const parts = asked.map((scope) => checkScope({ ...project, contract: scope.contract }, scope, stage, world));
  return {
    parts: parts.map(({ scope, resolutions }) => ({ scope, resolutions })),
    findings: withoutRepeats(parts.flatMap(({ scope, findings }) => findings.filter((one) => concerns(scope, one)))),
    // Findings of other stages and bundles are not among them.
    groups: stage === undefined && bundle === undefined ? VALUE_GROUPS : [],
  };
};

function checkScope(project: Project, scope: Scope, stage: string | undefined, world: World) {
  const resolver = new StageResolver(project, world);
  if (stage !== undefined) {
    const resolution = resolver.for(stageOf(project, stage)).asked;
    const findings = resolution.findings.filter((finding) => !concernsOtherReaders(finding));
    return { scope, resolutions: [resolution], findings };
  }
  const { all, findings } = resolver.each();
  return { scope, resolutions: all, findings: [...all.flatMap((one) => one.findings), ...findings] };
}

/** Tells whether a finding is about a variable that the part has; lines of shared files are reported for the parts that use them. */
function concerns({ contract, shows }: Scope, { variable, place }: RawFinding): boolean {
  const declared = contract.variables.get(variable ?? '');
  return declared === undefined || shows(declared, place?.path);
}

/** Notes about other programs that read env files are reported only when all stages are checked. */
function concernsOtherReaders({ code, level }: RawFinding): boolean {
  return code === 'value/ambiguous' && level === 'note';
}
