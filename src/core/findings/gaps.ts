import { globMatcher } from '../files/glob.js';
import type { Acceptance } from './acceptance.js';
import type { Coverage } from './check.js';

/**
 * Takes what the team accepts as unread out of the unread files. It is listed as skipped, with the reason and the last day.
 * @param today as 2026-11-24, UTC
 * @returns the coverage, and the acceptances that were used
 */
export function withAcceptedGaps(
  coverage: Coverage,
  accept: readonly Acceptance[],
  today: string,
): { coverage: Coverage; used: Acceptance[] } {
  const valid = accept.flatMap((one) =>
    one.unread !== undefined && one.until >= today ? [{ acceptance: one, matches: globMatcher(one.unread) }] : [],
  );
  const used = new Set<Acceptance>();
  const skipped = [...(coverage.skipped ?? [])];
  const unread = coverage.unread.filter(({ path, inside, because }) => {
    const found = valid.find(({ matches }) => matches(path))?.acceptance;
    if (!found) return true;
    used.add(found);
    skipped.push({ path, inside, because: `${because}, which is accepted until ${found.until}: ${found.because}` });
    return false;
  });
  return { coverage: { ...coverage, unread, ...(skipped.length > 0 && { skipped }) }, used: [...used] };
}
