import type { Contract } from '../contract/contract.js';
import type { PastValue } from '../history/history.js';
import { HistorySearch, type Recognised, withoutOverlaps } from '../history/search.js';
import type { Sought } from '../needles/index.js';
import { weakness } from '../needles/weak.js';
import type { Hit } from '../search/matcher.js';
import { groupBy } from '../text/group-by.js';
import type { ValueHit } from './hits.js';
import type { Owner } from './plan.js';

/** Values that the history has, for a search: `owners` are those of the values of `search`. */
export interface RecordedValues {
  search: HistorySearch;
  owners: readonly Owner[];
}

/**
 * The values of the history to search for: all that no stage has now, unless the contract excludes their variable. Public ones need
 * another value here, or nothing says that they are old.
 * @param present texts of the stage's public values @param stage the one in question
 */
export function pastToSeek(
  contract: Contract,
  past: readonly PastValue[],
  present: ReadonlySet<string>,
  stage?: string,
): { recorded?: RecordedValues; texts: Sought<Owner>[] } {
  const worth = past.filter((one) => {
    if (one.isCurrent || contract.variables.get(one.variable)?.search === 'never') return false;
    return ownerOf(contract, one).role === 'secret' || one.isPast;
  });
  // One value of several stages is one, and the stage in question says more of it.
  const sought = [...groupBy(worth, ({ variable, entry }) => `${variable}\0${entry.fingerprint}`).values()].map(
    (same) => same.find((one) => one.stage === stage) ?? (same[0] as PastValue),
  );
  const search = new HistorySearch(sought);
  const texts = sought.flatMap((one): Sought<Owner>[] => {
    const { text } = one.entry;
    return text === undefined || weakness(text) || present.has(text)
      ? []
      : [{ owner: ownerOf(contract, one), value: text }];
  });
  const owners = search.values.map((one) => ownerOf(contract, one));
  return { ...(owners.length > 0 && { recorded: { search, owners } }), texts };
}

function ownerOf(contract: Contract, { variable, stage, reach: then, from, to, because }: PastValue): Owner {
  const reach = contract.variables.get(variable)?.reach ?? then;
  return {
    role: reach === 'public' ? 'past' : 'secret',
    ...{ variable, stage, reach },
    recorded: { from, ...(to !== undefined && { to }), ...(because !== undefined && { because }) },
  };
}

/**
 * Recorded values at the stretches that a matcher reported.
 * @param hits all of them @param first number of the first owner among them @param read bytes of the input
 */
export function recordedHits(
  { search, owners }: RecordedValues,
  hits: readonly Hit[],
  first: number,
  read: (from: number, to: number) => Uint8Array,
): ValueHit[] {
  const found: ValueHit[] = [];
  for (const { needle, start, end } of hits) {
    const index = needle - first;
    const owner = owners[index];
    if (!owner) continue;
    const isKnown = found.some(
      (one) => wholeOf(one) === owner && one.start < end && start < one.end && !one.owner.part,
    );
    if (!isKnown) found.push(...search.around(index, start, end, read).map((one) => valueHit(one, owner)));
  }
  return withoutRepeats(found);
}

/** Recorded values in bytes in memory. */
export function recordedIn({ search, owners }: RecordedValues, bytes: Uint8Array): ValueHit[] {
  return search.in(bytes).map((one) => valueHit(one, owners[search.values.indexOf(one.value)] as Owner));
}

function valueHit({ value, start, end, encoding, found }: Recognised, owner: Owner): ValueHit {
  const part = found === undefined ? undefined : { part: { is: 'characters' } as const, of: owner };
  const amount = found !== undefined && { found, all: value.entry.length };
  return { owner: part ? { ...owner, part: { ...part, ...(amount && { amount }) } } : owner, encoding, start, end };
}

function wholeOf({ owner }: ValueHit): Owner {
  return owner.part?.of ?? owner;
}

/** Stretches overlap, so a value may be found in several; a part of it says nothing where the whole is. */
function withoutRepeats(hits: readonly ValueHit[]): ValueHit[] {
  const isPart = ({ owner }: ValueHit) => Number(owner.part !== undefined);
  const ordered = hits.toSorted((a, b) => isPart(a) - isPart(b) || a.start - b.start);
  return withoutOverlaps(ordered, wholeOf).sort((a, b) => a.start - b.start);
}
