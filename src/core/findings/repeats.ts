import type { RawFinding } from './finding.js';

/** A finding with the same facts in several stages is reported once, without a stage. */
export function withoutRepeats(findings: readonly RawFinding[]): RawFinding[] {
  const known = new Map<string, RawFinding>();
  for (const finding of findings) {
    const { code, variant, facts, variable, bundle, place } = finding;
    const key = JSON.stringify([code, variant, facts, variable, bundle, place]);
    const earlier = known.get(key);
    if (!earlier) known.set(key, finding);
    else if (earlier.stage !== finding.stage) known.set(key, withoutStage(earlier));
  }
  return [...known.values()];
}

function withoutStage({ stage: _, ...finding }: RawFinding): RawFinding {
  return finding;
}
