import type { Change } from '../findings/change.js';
import { summarize } from '../findings/judge.js';
import type { Receipt } from '../receipt/receipt.js';
import type { BuildsReport } from './documents.js';
import { REPORT_VERSION } from './version.js';

export type ComparedBuild = BuildsReport['builds'][number];

/** Summary of a receipt's build. @param path of the receipt, as reports show it */
export function comparedBuild({ predicate }: Receipt, path: string): ComparedBuild {
  const { stage, builtAt, contract, revision, tools } = predicate;
  return {
    stage,
    receipt: path,
    builtAt,
    ...(contract !== undefined && { contract }),
    ...(revision && { revision }),
    ...(tools && { tools }),
  };
}

/** Two builds, or a build and a stage as it is now. It has no findings: what a difference means, the reader decides. */
export function buildsReport(
  builds: readonly [ComparedBuild, ComparedBuild],
  about: Pick<BuildsReport, 'bundle' | 'rebuild' | 'reload' | 'same'>,
  changes: readonly Change[],
): BuildsReport {
  return {
    report: REPORT_VERSION,
    kind: 'builds',
    command: 'compare',
    ...about,
    builds: [...builds],
    changes: [...changes],
    findings: [],
    summary: { ...summarize([]), accepted: 0 },
  };
}
