import type { Bundle } from '../core/contract/contract.js';
import { type Scope, scopesOf } from '../core/contract/scopes.js';
import type { CheckResult } from '../core/findings/check.js';
import type { RawFinding } from '../core/findings/finding.js';
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
  stage?: string;
  /** Only the part with this bundle's layers. */
  bundle?: Bundle | undefined;
}

/** Codes that resolving checks completely. */
const VALUE_GROUPS = ['value/', 'file/', 'contract/', 'repo/misnamed'];

/** Checks the values of one stage; with no stage, those of all stages, also against each other. */
export const checkValues: Check<ValuesRequest, ValuesCheck> = (project, { stage, bundle }, world) => {
  const scopes = scopesOf(project.contract);
  const own = scopes.filter((scope) => scope.bundle?.name === bundle?.name);
  const asked = bundle === undefined ? scopes : own.length > 0 ? own : scopes.filter((scope) => !scope.bundle);
  const parts = asked.map((scope) => checkScope({ ...project, contract: scope.contract }, scope, stage, world));
  return {
    parts: parts.map(({ scope, resolutions }) => ({ scope, resolutions })),
    findings: withoutRepeats(parts.flatMap(({ scope, findings }) => findings.map((one) => inScope(scope, one)))),
    groups: VALUE_GROUPS,
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

/** A missing value has no place that would show which bundle lacks it. */
function inScope({ bundle }: Scope, finding: RawFinding): RawFinding {
  return bundle && finding.code === 'value/missing' ? { ...finding, bundle: bundle.name } : finding;
}

/** Notes about other programs that read env files are reported only when all stages are checked. */
function concernsOtherReaders({ code, level }: RawFinding): boolean {
  return code === 'value/ambiguous' && level === 'note';
}

/** A finding with the same words in several stages is reported once, without a stage. */
function withoutRepeats(findings: readonly RawFinding[]): RawFinding[] {
  const known = new Map<string, RawFinding>();
  for (const finding of findings) {
    const { code, variable, bundle, place, message } = finding;
    const key = JSON.stringify([code, variable, bundle, place, message]);
    const earlier = known.get(key);
    if (!earlier) known.set(key, finding);
    else if (earlier.stage !== finding.stage) known.set(key, withoutStage(earlier));
  }
  return [...known.values()];
}

function withoutStage({ stage: _, ...finding }: RawFinding): RawFinding {
  return finding;
}
