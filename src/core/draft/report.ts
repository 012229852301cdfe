import type { Contract } from '../contract/contract.js';
import { type RawFinding, settle, summarize } from '../findings/finding.js';
import { type DraftReport, REPORT_VERSION } from '../report/report.js';
import type { Draft } from './draft.js';
import type { Undecided } from './material.js';

/** What a draft came to: the entries that are new, and what a person has to decide. */
export function draftReport(
  draft: Draft,
  to: { contract: string; written: boolean; mergedInto?: Contract },
  unlisted: readonly { stage: string; layers: string[] }[] = [],
): DraftReport {
  const left = unlisted.map(
    ({ stage, layers }): Undecided => ({
      message: `${stage} of the contract does not name ${layers.join(', ')}`,
      remedy: `add what belongs there to the layers of ${stage}`,
      path: to.contract,
    }),
  );
  const findings = settle([...draft.undecided, ...left].map(asFinding), to.mergedInto?.levels ?? {});
  const { stages, bundles, variables } = draft;
  return {
    report: REPORT_VERSION,
    command: 'draft',
    contract: to.contract,
    written: to.written,
    merged: to.mergedInto !== undefined,
    drafted: {
      stages: stages.map(({ name, layers, because }) => ({ stage: name, layers, because })),
      bundles: bundles.map(({ name, runs, toolchain, because }) => ({ bundle: name, runs, toolchain, because })),
      variables: variables.map(({ name, reach, form = 'text', reasons }) => ({ name, reach, form, because: reasons })),
    },
    findings,
    summary: summarize(findings),
  };
}

function asFinding({ message, remedy, variable, path, line, column }: Undecided): RawFinding {
  return {
    code: 'contract/undecided',
    message,
    remedy,
    ...(variable && { variable }),
    ...(path !== undefined && { place: { path, inside: [], ...(line && { line }), ...(column && { column }) } }),
  };
}
