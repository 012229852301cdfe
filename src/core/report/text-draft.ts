import { reaches } from '../findings/reach.js';
import { count, displayText } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import type { DraftReport } from './documents.js';
import { cells, padEnd, wrap } from './layout.js';
import type { PrintOptions } from './style.js';
import { findingLines } from './text-findings.js';

/** A drafted contract for a terminal: each entry with its first reason, then what is left to decide. */
export function printDraft(report: DraftReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const { stages, bundles, variables } = report.drafted;
  const sections = quiet
    ? []
    : [
        [style.strong('adder draft'), report.contract].join('  '),
        '',
        ...section(
          'STAGE',
          stages.map(({ stage, layers }) => [stage, layers.join(', ')]),
          options,
        ),
        ...section(
          'BUNDLE',
          bundles.map(({ bundle, toolchain, because }) => [bundle, `${toolchain}: ${because}`]),
          options,
        ),
        ...section(
          'VARIABLE',
          variables.map(({ name, because: [first = ''] }) => [name, first]),
          options,
        ),
        ...(report.findings.length > 0
          ? [style.strong('To decide'), '', ...findingLines(report.findings, options)]
          : []),
      ];
  return [...sections, ...summaryOf(report, options), ''].join('\n');
}

function section(head: string, rows: readonly (readonly [string, string])[], { style, width }: PrintOptions): string[] {
  if (rows.length === 0) return [];
  const first = Math.max(head.length, ...rows.map(([name]) => cells(displayText(name)))) + 2;
  const lines = rows.flatMap(([name, text]) =>
    wrap(displayText(text), Math.max(20, width - first)).map(
      (line, index) => padEnd(index === 0 ? displayText(name) : '', first) + line,
    ),
  );
  return [style.dim(head), ...lines, ''];
}

function summaryOf(
  { contract, written, merged, drafted, findings }: DraftReport,
  { style, width }: PrintOptions,
): string[] {
  const { stages, bundles, variables } = drafted;
  const total = stages.length + bundles.length + variables.length;
  if (total === 0) return [`nothing to add to ${contract}${leftOver(findings.length)}`];
  const byReach = reaches
    .map((reach) => [variables.filter((one) => one.reach === reach).length, reach] as const)
    .filter(([number]) => number > 0)
    .map(([number, reach]) => `${number} ${reach}`);
  const counted = [
    stages.length > 0 && count(stages.length, 'stage'),
    bundles.length > 0 && count(bundles.length, 'bundle'),
    `${count(variables.length, 'variable')}${byReach.length > 0 ? ` (${byReach.join(', ')})` : ''}`,
  ].filter((part) => part !== false);
  const verb = !written ? 'would write' : merged ? 'added to' : 'wrote';
  return [
    ...wrap(`${verb} ${contract}: ${joinWords(counted)}${leftOver(findings.length)}`, width),
    ...(written ? [style.dim(`next: review ${contract}, then run adder values --all`)] : []),
  ];
}

function leftOver(number: number): string {
  return number === 0 ? '' : `; ${count(number, 'item')} to decide`;
}
