import type { Doubt, Question } from '../findings/check.js';
import type { RawFinding } from '../findings/finding.js';
import type { Facts, OutputFacts } from './facts.js';

/** Longer lists of names say no more. */
export const MOST_NAMES = 5;

/** Conclusion from the facts of one output. One file for each conclusion, one line in index.ts. */
export interface Conclusion {
  /** Tells whether an earlier finding is explained better by this conclusion. */
  explains?(finding: RawFinding, output: OutputFacts, facts: Facts): boolean;
  /** @param found findings of the conclusions before this one */
  findings?(output: OutputFacts, facts: Facts, found: readonly RawFinding[]): RawFinding[];
  doubts?(output: OutputFacts, facts: Facts): Doubt[];
  /** Questions that the facts can answer. */
  asks?(output: OutputFacts, facts: Facts): readonly Question[];
}
