import type { Change } from '../findings/change.js';
import { isBehindItsName } from '../receipt/receipt-name.js';
import { count, displayText, localTime } from '../text/display.js';
import { someWords } from '../text/nearest.js';
import type { BuildsReport } from './documents.js';
import { padEnd } from './layout.js';
import type { PrintOptions } from './style.js';
import { changeLines } from './text-changes.js';

type Build = BuildsReport['builds'][number];

/** Digits of a commit, as version control shows it. */
const SHORT = 12;
const MOST_FILES = 4;

/** Two builds, or a build and a stage as it is now, for a terminal. */
export function printBuilds(report: BuildsReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const { builds, changes, same, bundle } = report;
  const [first, second] = builds;
  const header = [style.strong('adder compare'), bundle].join('  ');
  const about = [
    `first   ${nameOf(first)}`,
    `second  ${nameOf(second)}`,
    ...[...clockLines(first, second), ...factLines(first, second)].map((line) => style.dim(line)),
  ];
  const body =
    changes.length === 0 ? [] : [...changeLines(changes, report, options), ...fileLines(changes, options), ''];
  const summary = `${changes.length === 0 ? 'no value differs' : `${count(changes.length, 'value')} ${changes.length === 1 ? 'differs' : 'differ'}`}, ${same} the same`;
  return [...(quiet ? [] : [header, ...about, '', ...body]), summary, ''].join('\n');
}

function nameOf({ stage, builtAt, receipt }: Build): string {
  return builtAt === undefined
    ? `${stage} as it is now`
    : `build for ${stage}, ${localTime(builtAt)}  ${displayText(receipt ?? '')}`.trimEnd();
}

/** A time that contradicts the order of the builds. */
function clockLines(...builds: Build[]): string[] {
  const isBehind = builds.some(
    ({ receipt = '', builtAt }) => builtAt !== undefined && isBehindItsName(receipt, builtAt),
  );
  return isBehind ? ['        a clock was wrong: the order of the receipts counts, not their times'] : [];
}

/** Differences of the two builds besides values. */
function factLines(first: Build, second: Build): string[] {
  const rows: [string, string | undefined, string | undefined][] = [
    ['commit', commitOf(first), commitOf(second)],
    ['contract', first.contract?.slice(0, SHORT), second.contract?.slice(0, SHORT)],
    ...[...new Set([...Object.keys(first.tools ?? {}), ...Object.keys(second.tools ?? {})])].map(
      (tool): [string, string | undefined, string | undefined] => [tool, first.tools?.[tool], second.tools?.[tool]],
    ),
  ];
  const differing = rows.filter(([, one, other]) => one !== undefined && other !== undefined && one !== other);
  const widest = Math.max(0, ...differing.map(([what]) => what.length));
  return differing.map(([what, one, other]) => `        ${padEnd(what, widest)}  ${one} → ${other}`);
}

function commitOf({ revision }: Build): string | undefined {
  return revision && `${revision.id.slice(0, SHORT)}${revision.dirty ? ' with uncommitted changes' : ''}`;
}

/** The files of the first build that contain values that differ. */
function fileLines(changes: readonly Change[], { style }: PrintOptions): string[] {
  return changes
    .filter(({ files }) => files.length > 0)
    .map(({ variable, files }) => style.dim(`  ${variable} was in ${someWords(files.map(displayText), MOST_FILES)}`));
}
