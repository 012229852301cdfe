import type { Finding } from '../findings/finding.js';
import { placeText } from '../findings/place.js';
import { count, localTime } from '../text/display.js';
import { groupBy } from '../text/group-by.js';
import type { FindingsReport, ReportChanges } from './findings-report.js';
import { wrap } from './layout.js';
import { questionTexts } from './question-texts.js';
import type { PrintOptions } from './style.js';

/** Maximum number of findings in the list of those that are gone. */
const MOST = 20;

/** `3 new findings, 1 is gone, 12 are the same, since 2026-11-24 05:10 UTC`. */
export function changesLine({ gone, same, since }: ReportChanges, findings: readonly Finding[]): string {
  const areOf = (all: readonly Finding[]) => `${all.length} ${all.length === 1 ? 'is' : 'are'}`;
  const time = since === undefined ? '' : `, since ${localTime(since)}`;
  return `${count(findings.length, 'new finding')}, ${areOf(gone)} gone, ${areOf(same)} the same${time}`;
}

/** Lists the findings that are gone, one line each, and the answers that changed. */
export function comparedLines(
  changes: ReportChanges,
  coverage: FindingsReport['coverage'],
  { style, width }: PrintOptions,
): string[] {
  const gone = goneLines(changes, coverage?.unread.length ?? 0).flatMap((line) =>
    wrap(line, width - 2).map((part, index) => (index === 0 ? part : `  ${part}`)),
  );
  return [
    ...(gone.length > 0 ? [style.dim('GONE'), ...gone, ''] : []),
    ...(changes.answers.length > 0 ? [...changes.answers.map(answerChangeText), ''] : []),
  ];
}

/** `nothing leaked: yes, was no`. */
export function answerChangeText({ question, was, is }: ReportChanges['answers'][number]): string {
  return `${questionTexts[question]}: ${is}, was ${was}`;
}

/** @param unread number of items that the later report could not check, so their findings may still exist */
export function goneLines({ gone }: ReportChanges, unread: number): string[] {
  const causes = [...groupBy(gone, ({ fingerprint }) => fingerprint).values()];
  const lines = causes.slice(0, MOST).map((all) => {
    const { code, variable, place, message } = all[0] as Finding;
    const more = all.length > 1 ? ` and ${count(all.length - 1, 'more place')}` : '';
    return [code, variable, place && placeText(place) + more, message].filter(Boolean).join('  ');
  });
  return [
    ...lines,
    ...(causes.length > MOST ? [`and ${count(causes.length - MOST, 'more finding')}`] : []),
    ...(gone.length > 0 && unread > 0
      ? [`${count(unread, 'item')} could not be checked, so some of these may still be there`]
      : []),
  ];
}
