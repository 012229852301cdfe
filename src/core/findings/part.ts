import type { Acceptance } from './acceptance.js';
import type { Doubt, Question } from './check.js';
import type { RawFinding } from './finding.js';
import type { Levels } from './judge.js';

/** Which part of an output one machine inspects, from 1, and how many parts there are. */
export interface PartNumber {
  part: number;
  of: number;
}

/** What one part of an output found that only all parts together can settle. */
export interface Unsettled {
  /** Findings about the whole output. */
  whole: RawFinding[];
  /** Findings that hold unless some part contains the variable's value; or, with `unlessReported`, has another finding about it. */
  unlessPresent: { finding: RawFinding; unlessReported?: true }[];
  /** Values that may leave no trace, of bundles without a receipt. */
  traceless: { bundle: string; stage: string; variable: string }[];
  /** Places and variables whose values another finding explains better. */
  explained: { path: string; variable: string }[];
}

/** The part of a report that belongs to one part of an output: {@link Unsettled}, and how the findings are judged. */
export interface Part extends PartNumber, Unsettled {
  /** Digest of the list of all files. Parts with another one are of another output. */
  listing: string;
  /** The contract's path, where acceptances are. */
  contract: string;
  levels: Levels;
  accept: Acceptance[];
  groups: string[];
  asked: Question[];
  doubts: Doubt[];
}

export function nothingUnsettled(): Unsettled {
  return { whole: [], unlessPresent: [], traceless: [], explained: [] };
}
