import type { Stage } from '../core/contract/contract.js';
import type { CheckResult } from '../core/findings/check.js';
import type { RawFinding } from '../core/findings/finding.js';
import type { Resolution } from '../core/resolve/resolve.js';
import type { Check } from './check.js';
import { StageResolver } from './resolve.js';

/** The values of one stage, or of all stages. */
export interface ValuesCheck extends CheckResult {
  resolutions: readonly Resolution[];
}

/** Codes that resolving checks completely. */
const VALUE_GROUPS = ['value/', 'file/', 'contract/', 'repo/misnamed'];

/** Checks the values of one stage; with no stage, those of all stages, also against each other. */
export const checkValues: Check<{ stage?: Stage }, ValuesCheck> = (project, { stage }, world) => {
  const resolver = new StageResolver(project, world);
  if (stage) {
    const { asked } = resolver.for(stage);
    const findings = asked.findings.filter((finding) => !concernsOtherReaders(finding));
    return { resolutions: [asked], findings, groups: VALUE_GROUPS };
  }
  const { all, findings } = resolver.each();
  const joined = withoutRepeats([...all.flatMap((one) => one.findings), ...findings]);
  return { resolutions: all, findings: joined, groups: VALUE_GROUPS };
};

/** Notes about other programs that read env files are reported only when all stages are checked. */
function concernsOtherReaders({ code, level }: RawFinding): boolean {
  return code === 'value/ambiguous' && level === 'note';
}

/** A finding with the same words in several stages is reported once, without a stage. */
function withoutRepeats(findings: readonly RawFinding[]): RawFinding[] {
  const known = new Map<string, RawFinding>();
  for (const finding of findings) {
    const { code, variable, place, message } = finding;
    const key = JSON.stringify([code, variable, place, message]);
    const earlier = known.get(key);
    if (!earlier) known.set(key, finding);
    else if (earlier.stage !== finding.stage) known.set(key, withoutStage(earlier));
  }
  return [...known.values()];
}

function withoutStage({ stage: _, ...finding }: RawFinding): RawFinding {
  return finding;
}
