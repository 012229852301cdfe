import { summarize } from '../findings/judge.js';
import type { PastValue } from '../history/history.js';
import type { Receipt } from '../receipt/receipt.js';
import type { HistoryReport } from './documents.js';
import { REPORT_VERSION } from './version.js';

/** The history as a report. It has no findings: `inspect` says where values are. */
export function historyReport(
  about: Pick<HistoryReport, 'variable' | 'state' | 'closed' | 'hidden' | 'today' | 'unread'>,
  values: readonly PastValue[],
  builds: readonly { receipt: Receipt; servedAt?: string }[],
): HistoryReport {
  const shown = new Map(values.flatMap(({ ids }) => ids.map((id) => [id, ids[0] as string] as const)));
  return {
    report: REPORT_VERSION,
    kind: 'history',
    command: 'history',
    ...about,
    values: values.map(({ ids, variable, stage, reach, from, to, because, isCurrent, isPast }) => ({
      id: ids[0] as string,
      ...{ variable, stage, reach, from },
      ...(to !== undefined && { to }),
      ...(because !== undefined && { because }),
      current: isCurrent,
      past: isPast,
    })),
    builds: builds.flatMap(({ receipt: { predicate }, servedAt }) => {
      const ids = predicate.values.flatMap(({ entry = '' }) => shown.get(entry) ?? []);
      if (ids.length === 0) return [];
      const { bundle, stage, builtAt } = predicate;
      return [{ bundle, stage, builtAt, values: ids, ...(servedAt !== undefined && { servedAt }) }];
    }),
    findings: [],
    summary: { ...summarize([]), accepted: 0 },
  };
}
