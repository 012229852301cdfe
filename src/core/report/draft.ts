import type { Contract } from '../contract/contract.js';
import { rulesOf } from '../contract/rules.js';
import type { Draft } from '../draft/draft.js';
import type { Undecided } from '../draft/material.js';
import type { RawFinding } from '../findings/finding.js';
import { judge, noRules } from '../findings/judge.js';
import { ships } from '../resolve/value-rules.js';
import { count } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import type { DraftReport } from './documents.js';
import { REPORT_VERSION } from './version.js';

/** The new entries of a draft, and what the user has to decide. */
export function draftReport(
  draft: Draft,
  to: { contract: string; written: boolean; mergedInto?: Contract },
  today: string,
  unlisted: readonly { stage: string; layers: string[] }[] = [],
): DraftReport {
  const left = unlisted.map(
    ({ stage, layers }): Undecided => ({
      message: `${stage} in the contract does not list ${layers.join(', ')}`,
      remedy: `add the right ones to the layers of ${stage}`,
      path: to.contract,
    }),
  );
  const findings = [...assumed(draft), ...draft.undecided, ...left, ...unread(draft)].map(asFinding);
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
    ...judge(findings, rules, today, []),
  };
}

function assumed({ stages }: Draft): Undecided[] {
  return stages
    .filter(({ name, isTold }) => !isTold && ships(name))
    .map(({ name }) => ({
      message: `no file is named after a stage that ships, so ${name} is assumed, with the shared files`,
      remedy: `list its layers under \`stages.${name}\``,
    }));
}

function unread({ unread: names }: Draft): Undecided[] {
  if (names.length === 0) return [];
  const message = `no checked code reads ${count(names.length, 'name')}: ${joinWords(names)}`;
  const remedy = 'remove the names that nothing needs, and set the reach of the others';
  return [{ message, remedy }];
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
