import type { Owner } from '../../inspect/plan.js';
import { limits } from '../../limits/index.js';
import type { WholeNeedle } from '../../needles/index.js';
import { findAll, type Matcher } from '../../search/matcher.js';
import { matcherFor } from '../../search/matcher-for.js';
import { byteSize, count } from '../../text/display.js';

/** A version of a file in the history. */
export interface Version {
  /** Object ID in version control. */
  id: string;
  path: string;
  /** In bytes; 0 for anything but a file. */
  size: number;
}

/** A value of today in a version of a file. */
export interface ValueInHistory {
  variable: string;
  stages: string[];
  version: Version;
}

/** Which versions are searched, and what the limits leave out. */
export interface HistoryPlan {
  versions: Version[];
  bytes: number;
  /** Reasons why versions are not searched, as phrases. */
  leftOut: string[];
}

/**
 * Chooses the versions to search, the newest first, within the limits.
 * @param all without what a clone did not fetch
 * @param clone how complete it is
 */
export function planHistory(all: readonly Version[], clone: { isShallow: boolean; absent: number }): HistoryPlan {
  const files = all.filter(({ size }) => size > 0);
  let bytes = 0;
  const versions = files.slice(0, limits.historyVersions.value).filter(({ size }) => {
    const isSearched = size <= limits.historyVersionBytes.value && bytes + size <= limits.historyBytes.value;
    if (isSearched) bytes += size;
    return isSearched;
  });
  const left = files.length - versions.length;
  const largest = byteSize(limits.historyVersionBytes.value);
  const leftOut = [
    ...(clone.isShallow ? ['is cut off, because the clone is shallow: fetch all commits to search it whole'] : []),
    ...(clone.absent > 0 ? [`lacks ${count(clone.absent, 'object')}, because the clone is partial`] : []),
    ...(left > 0
      ? [
          `has ${count(left, 'version')} that ${left === 1 ? 'was' : 'were'} not searched: larger than ${largest}, or too many`,
        ]
      : []),
  ];
  return { versions, bytes, leftOut };
}

/** Searches file contents for the whole values of today. */
export class ValueSearch {
  readonly #matcher: Matcher;
  readonly #found = new Map<string, { variable: string; stages: Set<string>; version: Version }>();

  constructor(readonly needles: readonly WholeNeedle<Owner>[]) {
    this.#matcher = matcherFor(needles.map(({ bytes }) => bytes));
  }

  add(version: Version, content: Uint8Array): void {
    for (const { variable, stage = '' } of this.#owners(content)) {
      const key = `${variable}\0${version.path}`;
      const known = this.#found.get(key) ?? { variable, stages: new Set<string>(), version };
      known.stages.add(stage);
      this.#found.set(key, known);
    }
  }

  /** Tells whether a content has a value of the variable. */
  has(variable: string, content: Uint8Array): boolean {
    return this.#owners(content).some((owner) => owner.variable === variable);
  }

  get found(): ValueInHistory[] {
    return [...this.#found.values()].map((one) => ({ ...one, stages: [...one.stages] }));
  }

  #owners(content: Uint8Array): Owner[] {
    return findAll(this.#matcher, content).flatMap(({ needle }) => this.needles[needle]?.owners ?? []);
  }
}
