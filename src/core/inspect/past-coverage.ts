import type { PastCoverage, Unsought } from '../findings/check.js';
import { lastDay, type PastValue } from '../history/history.js';

/** The history as an inspection could use it. */
export interface UsedHistory {
  values: readonly PastValue[];
  /** `no key`: entries exist, and this machine cannot read any. */
  state: 'none' | 'no key' | 'open';
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
  const because = state === 'no key' ? 'this machine has no key of the history' : 'the history has no entry';
  const lacking = isRequired && state !== 'open' ? { lacking: because } : {};
  if (state !== 'open') return { ...unknown, ...lacking, ...(state === 'no key' && { past: { because } }) };
  const recognised = values.filter(({ entry, isCurrent }) => !isCurrent && (entry.windows || entry.text !== undefined));
  const known = new Map<string, number>();
  for (const { variable, stage: of } of recognised)
    if (of === stage) known.set(variable, (known.get(variable) ?? 0) + 1);
  const isUnknown = new Set(unknown.notSearched.map(({ variable }) => variable));
  return {
    notSearched: unknown.notSearched.filter(({ variable }) => !known.has(variable)),
    names: unknown.names.filter((name) => !known.has(name)),
    past: {
      values: recognised.length,
      until: lastDay(values) ?? '',
      instead: [...known].flatMap(([variable, count]) =>
        isUnknown.has(variable) ? [{ variable, values: count }] : [],
      ),
    },
  };
}
