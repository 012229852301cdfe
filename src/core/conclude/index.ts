import { type CheckResult, type Doubt, distinct, type Question, questions } from '../findings/check.js';
import type { RawFinding } from '../findings/finding.js';
import type { Conclusion } from './conclusion.js';
import { earlierBuilds } from './earlier-builds.js';
import type { Facts, OutputFacts } from './facts.js';
import { lastBuild } from './last-build.js';
import { loadTimeValues } from './load-time.js';
import { missingValues } from './missing-values.js';
import { ownCode } from './own-code.js';
import { pastValues } from './past-values.js';
import { privateDirectories } from './private-directories.js';
import { restoredBuild } from './restored-build.js';
import { settingsOnce } from './settings.js';
import { missingShards } from './shards.js';
import { servedBuild, siteAnswers } from './site.js';
import { requiredHistory, unknownSecrets } from './unknown-secrets.js';

/** All conclusions about an output, in their order: a later one sees the findings of those before it, and may explain them. */
const conclusions: readonly Conclusion[] = [
  privateDirectories,
  siteAnswers,
  loadTimeValues,
  ownCode,
  servedBuild,
  earlierBuilds,
  pastValues,
  missingValues,
  lastBuild,
  restoredBuild,
];

/**
 * Draws all conclusions from the facts of an inspection: its findings, and the answers to its questions. A pure function, and the only
 * place that concludes: `inspect`, `probe`, `gate` and `show` all call it.
 */
export function conclude(facts: Facts): CheckResult {
  const missing = missingShards(facts);
  const outputs = missing.length > 0 ? facts.outputs.map((one) => ({ ...one, isWhole: false })) : facts.outputs;
  const all = outputs.map((output) => ofOutput(output, facts));
  const { coverage, contents, since } = facts;
  const asked =
    missing.length > 0 ? questions : [...new Set<Question>(['nothingLeaked', ...all.flatMap((one) => one.asked)])];
  return {
    findings: settingsOnce(all.flatMap(({ findings }) => findings)),
    coverage,
    verdict: {
      asked,
      doubts: distinct([
        ...unknownSecrets(facts),
        ...requiredHistory(facts),
        ...all.flatMap(({ doubts }) => doubts),
        ...missing,
      ]),
    },
    ...(contents && { contents }),
    ...(since.length > 0 && { since }),
    groups: missing.length > 0 ? [] : completeGroups(facts),
  };
}

function ofOutput(
  output: OutputFacts,
  facts: Facts,
): { findings: RawFinding[]; doubts: Doubt[]; asked: readonly Question[] } {
  let findings = [...output.found];
  for (const conclusion of conclusions) {
    findings = findings.filter((one) => conclusion.explains?.(one, output, facts) !== true);
    findings.push(...(conclusion.findings?.(output, facts, findings) ?? []));
  }
  return {
    findings: withoutRecorded(findings, output),
    doubts: conclusions.flatMap((one) => one.doubts?.(output, facts) ?? []),
    asked: conclusions.flatMap((one) => one.asks?.(output, facts) ?? []),
  };
}

/** A receipt says more of an old value than the history: which build it is from, and where the current one is. */
function withoutRecorded(findings: readonly RawFinding[], { site }: OutputFacts): RawFinding[] {
  const isRecorded = ({ code, variant }: RawFinding) => code === 'stale/past-value' && variant === 'recorded';
  const others = findings.filter((one) => !isRecorded(one));
  // A site's build is compared with its receipt, and may be an older one on purpose.
  const isKnownBuild = site !== undefined && site.served.builds.length > 0;
  if (isKnownBuild || others.some(isOfOtherBuild)) return others;
  const known = new Set(others.flatMap(({ code, variable }) => (code.startsWith('stale/') ? (variable ?? []) : [])));
  return findings.filter((one) => !isRecorded(one) || !known.has(one.variable ?? ''));
}

/** Tells whether a finding says that files are of another build, whose values are other ones. */
function isOfOtherBuild({ code, variant = '' }: RawFinding): boolean {
  if (code === 'serve/out-of-date') return true;
  return code === 'stale/receipt' && /^(file-of-other-stage|left-over|restored)$/.test(variant);
}

/** Groups of codes that were checked completely. A group that depends on the stage is complete only for the stage that was built. */
function completeGroups({ isAll, coverage, builtStage, stage }: Facts): string[] {
  if (!isAll || coverage.unread.length > 0) return [];
  const isBuilt = builtStage === undefined || builtStage === stage;
  return isBuilt ? ['leak/', 'stale/', 'stage/', 'read/'] : ['leak/', 'read/'];
}
