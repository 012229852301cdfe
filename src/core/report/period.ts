import type { HistoryReport } from './documents.js';

/** The days on which a variable had a value, such as `2026-08-01 to now`. */
export function periodText({
  from,
  to,
  current,
  past,
}: Pick<HistoryReport['values'][number], 'from' | 'to' | 'current' | 'past'>): string {
  if (to !== undefined) return `${from} to ${to}`;
  if (current) return `${from} to now`;
  return past ? `${from}, no longer set` : `${from}, last known`;
}
