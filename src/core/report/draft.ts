import type { Contract } from '../contract/contract.js';
import { rulesOf } from '../contract/rules.js';
import type { Draft } from '../draft/draft.js';
import { decidedAt } from '../draft/material.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { noRules } from '../findings/judge.js';
import { ships } from '../resolve/value-rules.js';
import type { DraftReport } from './documents.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

/** The new entries of a draft, and what the user has to decide. */
export function draftReport(
  draft: Draft,
  to: { contract: string; written: boolean; mergedInto?: Contract },
  today: string,
  unlisted: readonly { stage: string; layers: string[] }[] = [],
): DraftReport {
  const left = unlisted.map(({ stage, layers }) =>
    finding('contract/undecided', 'unlisted', { stage, layers }, decidedAt({ path: to.contract })),
  );
  const findings = [...assumed(draft), ...draft.undecided, ...left, ...unread(draft)];
  const rules = to.mergedInto ? rulesOf(to.mergedInto) : noRules;
  const { stages, bundles, variables } = draft;
  return {
    report: REPORT_VERSION,
    kind: 'draft',
    command: 'draft',
    contract: to.contract,
    written: to.written,
    merged: to.mergedInto !== undefined,
    drafted: {
      stages: stages.map(({ name, layers, because }) => ({ stage: name, layers, because })),
      bundles: bundles.map(({ name, runs, toolchain, because }) => ({ bundle: name, runs, toolchain, because })),
      variables: variables.map(({ name, reach, form = 'text', reasons }) => ({ name, reach, form, because: reasons })),
    },
    ...wordedFindings(findings, rules, today, []),
  };
}

function assumed({ stages }: Draft): RawFinding[] {
  return stages
    .filter(({ name, isTold }) => !isTold && ships(name))
    .map(({ name }) => finding('contract/undecided', 'assumed', { stage: name }));
}

/** A configuration that computes what it passes to code may read any name. */
function unread({ unread: names, undecided }: Draft): RawFinding[] {
  if (names.length === 0) return [];
  const computed = undecided.find(({ code, variant }) => code === 'contract/undecided' && variant === 'computed-names');
  return computed
    ? [finding('contract/undecided', 'maybe-read', { names, path: String(computed.facts.path) })]
    : [finding('contract/undecided', 'unread', { names })];
}
