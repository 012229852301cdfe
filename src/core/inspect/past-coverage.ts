import type { PastCoverage, Unsought } from '../findings/check.js';
import { lastDay, type PastValue } from '../history/history.js';

/** The history as an inspection could use it. */
export interface UsedHistory {
  values: readonly PastValue[];
  /** `no key`: entries exist, and this machine cannot read any. */
  state: 'none' | 'no key' | 'open';
}

/** How far past values were searched for; nothing if there is no history. */
export function pastCoverage({ values, state }: UsedHistory): { past?: PastCoverage } {
  if (state === 'none') return {};
  if (state === 'no key') return { past: { because: NO_KEY } };
  return { past: { values: recognisable(values).length, until: lastDay(values) ?? '', instead: [] } };
}

const NO_KEY = 'this machine has no key of the history';

/** Values that are not in use here, and so are not searched for as such. */
function recognisable(values: readonly PastValue[]): PastValue[] {
  return values.filter(({ entry, isCurrent }) => !isCurrent && (entry.windows || entry.text !== undefined));
}

/** Names without a value here, and what the history has in their place. */
export interface WithHistory {
  notSearched: Unsought[];
  names: string[];
  past?: PastCoverage;
  /** Why the history does not help, if the contract requires it. */
  lacking?: string;
}

/**
 * Values that are unknown here and that the history has are searched for after all. A variable without an entry stays unknown.
 * @param unknown variables of the stage without a value here @param isRequired whether the contract requires the history
 */
export function withHistory(
  stage: string,
  unknown: Pick<WithHistory, 'notSearched' | 'names'>,
  { values, state }: UsedHistory,
  isRequired: boolean,
): WithHistory {
  const because = state === 'no key' ? NO_KEY : 'the history has no entry';
  const lacking = isRequired && state !== 'open' ? { lacking: because } : {};
  const { past } = pastCoverage({ values, state });
  if (!past || 'because' in past) return { ...unknown, ...lacking, ...(past && { past }) };
  const known = new Map<string, number>();
  for (const { variable, stage: of } of recognisable(values))
    if (of === stage) known.set(variable, (known.get(variable) ?? 0) + 1);
  const isUnknown = new Set(unknown.notSearched.map(({ variable }) => variable));
  return {
    notSearched: unknown.notSearched.filter(({ variable }) => !known.has(variable)),
    names: unknown.names.filter((name) => !known.has(name)),
    past: {
      ...past,
      instead: [...known].flatMap(([variable, count]) =>
        isUnknown.has(variable) ? [{ variable, values: count }] : [],
      ),
    },
  };
}
