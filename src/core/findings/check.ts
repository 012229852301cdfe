import type { Since } from './change.js';
import type { Contents } from './contents.js';
import type { RawFinding } from './finding.js';
import type { CodeGroups } from './judge.js';

/** Something that was not read. `path` is relative to the contract's directory; `inside` names embedded files. */
export interface Unread {
  path: string;
  inside: string[];
  /** A phrase that follows the path, such as `is encrypted`. */
  because: string;
}

/** A value that is not searched for, and why. */
export interface Unsought {
  variable: string;
  stage: string;
  because: string;
}

/** Coverage of a check. A clean report means that `unread` is empty. */
export interface Coverage {
  files: number;
  /** Embedded files, of archives and maps. */
  members: number;
  bytes: number;
  unread: Unread[];
  /** Paths that are never opened: pipes, sockets, devices, caches, packages. */
  skipped?: Unread[];
  notSearched?: Unsought[];
  past?: PastCoverage;
}

/** The search for values that variables had. */
export type PastCoverage =
  | {
      /** Number of values that were searched for. */
      values: number;
      /** Day of the newest one: YYYY-MM-DD, UTC. */
      until: string;
      /** Variables without a value here, and how many of their values the history has. */
      instead: { variable: string; values: number }[];
    }
  | { because: string };

/** Questions that an inspection answers: nothing leaked, nothing is missing, up to date for this stage. */
export const questions = ['nothingLeaked', 'allThere', 'current'] as const;
export type Question = (typeof questions)[number];

/** Why a question has no answer: a sentence without a full stop, and what to do. */
export interface Doubt {
  question: Question;
  /** The bundle that it is about, if it is about one. */
  bundle?: string;
  because: string;
  remedy: string;
  /** Tells whether build or server variables without a value here are all that is unknown, which --allow-incomplete allows. */
  isWithoutValue?: true;
}

/** The questions that a check was asked, and what it could not find out. */
export interface Verdict {
  asked: readonly Question[];
  doubts: readonly Doubt[];
}

/** Result of one check, before anything is judged. */
export interface CheckResult {
  findings: readonly RawFinding[];
  coverage?: Coverage;
  verdict?: Verdict;
  /** If it was asked for. */
  contents?: Contents;
  /** Changes since the last builds of the bundles. */
  since?: readonly Since[];
  /** The groups of codes that it checks completely; none if it was asked about a part of the project. */
  groups: CodeGroups;
}

/** Joint coverage of several checks; a path that more than one could not read is listed once. */
export function joinCoverage(all: readonly Coverage[]): Coverage | undefined {
  if (all.length === 0) return undefined;
  const sum = (field: 'files' | 'members' | 'bytes') => all.reduce((total, one) => total + one[field], 0);
  const skipped = distinct(all.flatMap((one) => one.skipped ?? []));
  const notSearched = distinct(all.flatMap((one) => one.notSearched ?? []));
  const past = all.map((one) => one.past).reduce(joinPast, undefined);
  return {
    files: sum('files'),
    members: sum('members'),
    bytes: sum('bytes'),
    unread: distinct(all.flatMap(({ unread }) => unread)),
    ...(skipped.length > 0 && { skipped }),
    ...(notSearched.length > 0 && { notSearched }),
    ...(past && { past }),
  };
}

/** A part without the history makes the whole incomplete. */
function joinPast(a: PastCoverage | undefined, b: PastCoverage | undefined): PastCoverage | undefined {
  if (!a || !b) return a ?? b;
  if ('because' in a || 'because' in b) return 'because' in a ? a : b;
  const until = a.until > b.until ? a.until : b.until;
  return { values: Math.max(a.values, b.values), until, instead: distinct([...a.instead, ...b.instead]) };
}

/** Items without repeats, by their JSON. */
export function distinct<T>(items: readonly T[]): T[] {
  return [...new Map(items.map((item) => [JSON.stringify(item), item])).values()];
}
