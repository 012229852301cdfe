import { limits } from '../../limits/index.js';
import { byteSize, count } from '../../text/display.js';
import type { Recorded } from '../../words/recorded.js';
import type { WholeValues } from './whole-values.js';

/** A version of a file in the history. */
export interface Version {
  /** Object ID in version control. */
  id: string;
  path: string;
  /** In bytes; 0 for anything but a file. */
  size: number;
}

/** A value in a version of a file. */
export interface ValueInHistory {
  variable: string;
  stages: string[];
  version: Version;
  /** For a value that only the history of values has. */
  recorded?: Recorded;
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

/** Searches versions of files for whole values. */
export class ValueSearch {
  readonly #found = new Map<string, ValueInHistory>();

  constructor(readonly values: WholeValues) {}

  add(version: Version, content: Uint8Array): void {
    for (const { owner } of this.values.in(content)) {
      const { variable, stage = '', recorded } = owner;
      const key = `${variable}\0${version.path}`;
      const known = this.#found.get(key) ?? { variable, stages: [], version, ...(recorded && { recorded }) };
      if (!known.stages.includes(stage)) known.stages.push(stage);
      // A value of today says more.
      if (!recorded) delete known.recorded;
      this.#found.set(key, known);
    }
  }

  /** Tells whether a content has a value of the variable. */
  has(variable: string, content: Uint8Array): boolean {
    return this.values.in(content).some(({ owner }) => owner.variable === variable);
  }

  get found(): ValueInHistory[] {
    return [...this.#found.values()];
  }
}
