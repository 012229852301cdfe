import type { Reach } from '../findings/reach.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { groupBy } from '../text/group-by.js';
import { type Entry, type Retirement, type ValueEntry, valueFingerprint } from './entry.js';
import type { SectionKeys } from './keys.js';

/** A section of the history that a key opens. */
export interface OpenSection {
  /** The project's key at that time. */
  key: Uint8Array;
  keys: SectionKeys;
  /** By their ids. */
  entries: ReadonlyMap<string, Entry>;
}

/** A value of a variable in a stage, without the value: the entries that say the same are one. */
export interface PastValue {
  /** Ids of its entries, the newest section first. */
  ids: string[];
  variable: string;
  stage: string;
  reach: Reach;
  /** Day when it was first recorded: YYYY-MM-DD, UTC. */
  from: string;
  /** Day when it was replaced; absent if nobody said so and no later value is known. */
  to?: string;
  because?: string;
  /** True if the variable has it now. */
  isCurrent: boolean;
  /** True if the variable has another value here in its stage. */
  isPast: boolean;
  /** The entry to recognise it by, and the keys of its section. */
  entry: ValueEntry;
  keys: SectionKeys;
}

/** A value that a variable has now. */
export interface CurrentValue {
  variable: string;
  stage: string;
  value: Secret;
}

/**
 * All values that entries tell of, by variable, stage and day.
 * @param current values that the stages have here
 */
export function pastValues(sections: readonly OpenSection[], current: readonly CurrentValue[]): PastValue[] {
  const entries = new Map(sections.flatMap(({ entries }) => [...entries]));
  const renewed = new Map([...entries.values()].flatMap((one) => (one.is === 'renewed' ? [[one.entry, one.as]] : [])));
  const retirements = [...entries.values()].filter((one) => one.is === 'retired');
  const retired = groupBy(retirements, ({ entry }) => newestId(entry, renewed));
  const byId = new Map<string, PastValue>();
  for (const { keys, entries: own } of sections)
    for (const [id, entry] of own) {
      if (entry.is !== 'value') continue;
      const newest = newestId(id, renewed);
      const known = byId.get(newest);
      if (known) {
        known.ids.push(id);
        if (entry.day < known.from) known.from = entry.day;
        continue;
      }
      const { variable, stage, reach, day } = entry;
      byId.set(newest, { ids: [id], variable, stage, reach, from: day, isCurrent: false, isPast: false, entry, keys });
    }
  for (const [id, value] of byId) retire(value, retired.get(id));
  const values = [...byId.values()].sort(byName);
  for (const group of groupBy(values, ({ variable, stage }) => `${variable}\0${stage}`).values())
    markCurrent(group, current);
  // Values in use have no end any more, and come last.
  return values.sort(byName);
}

/** The entry that stands for an older one. A damaged history may have a circle. */
function newestId(id: string, renewed: ReadonlyMap<string, string>): string {
  const seen = new Set([id]);
  for (let next = renewed.get(id); next !== undefined && !seen.has(next); next = renewed.get(next)) seen.add(next);
  return [...seen].at(-1) as string;
}

function byName(a: PastValue, b: PastValue): number {
  const key = ({ variable, stage, from, to = '9', ids }: PastValue) => [variable, stage, from, to, ids[0]].join('\0');
  return key(a) < key(b) ? -1 : 1;
}

/** The first retirement counts. */
function retire(value: PastValue, all: readonly Retirement[] | undefined): void {
  const [first] = [...(all ?? [])].sort((a, b) => (`${a.day}${a.because}` < `${b.day}${b.because}` ? -1 : 1));
  if (!first) return;
  value.to = first.day;
  if (first.because !== undefined) value.because = first.because;
}

/**
 * A value that is in use was not replaced for good, whatever its entries say. The others of its stage ended when it was recorded, at
 * the latest.
 */
function markCurrent(group: readonly PastValue[], current: readonly CurrentValue[]): void {
  const values = current.filter(({ variable, stage }) => variable === group[0]?.variable && stage === group[0]?.stage);
  for (const one of group) one.isCurrent = values.some((now) => isOf(one, now.value));
  for (const one of group) one.isPast = !one.isCurrent && values.length > 0;
  // A value that came back has several entries.
  const last = group.findLast((one) => one.isCurrent);
  if (!last) return;
  delete last.to;
  delete last.because;
  for (const one of group) {
    if (one === last || one.to !== undefined || one.from > last.from) continue;
    one.to = group.find(({ from }) => from > one.from)?.from ?? last.from;
  }
}

/** The entry of a value that is recorded and was not replaced since: such a value needs no other entry. */
export function openEntryOf(
  values: readonly PastValue[],
  { variable, stage, value }: CurrentValue,
): PastValue | undefined {
  const ofVariable = values.filter((one) => one.variable === variable && one.stage === stage);
  const own = ofVariable.findLast((one) => isOf(one, value));
  const isReplaced = own?.to !== undefined || ofVariable.some((one) => one.from > (own?.from ?? ''));
  return isReplaced ? undefined : own;
}

/** Tells whether a value is the one that was recorded. */
export function isOf({ entry, keys }: Pick<PastValue, 'entry' | 'keys'>, value: Secret): boolean {
  return valueFingerprint(keys, entry.variable, Buffer.from(reveal(value))) === entry.fingerprint;
}

/**
 * Entries that a rule of the contract forgets: of values that were replaced before a day, unless a receipt names them.
 * @param needed ids in receipts
 */
export function forgottenBefore(
  day: string,
  values: readonly PastValue[],
  sections: readonly OpenSection[],
  needed: ReadonlySet<string>,
): { section: string; id: string }[] {
  const old = values.filter(
    ({ to, isCurrent, ids }) => !isCurrent && to !== undefined && to < day && !ids.some((id) => needed.has(id)),
  );
  const ids = new Set(old.flatMap((one) => one.ids));
  return sections.flatMap(({ keys: { section }, entries }) =>
    [...entries].flatMap(([id, entry]) => (ids.has(entry.is === 'value' ? id : entry.entry) ? [{ section, id }] : [])),
  );
}

/** The last day on which something was recorded; undefined for an empty history. */
export function lastDay(values: readonly PastValue[]): string | undefined {
  return values.reduce<string | undefined>(
    (last, { from }) => (last === undefined || from > last ? from : last),
    undefined,
  );
}
