import type { Answer, Answers } from '../conclude/answers.js';
import type { SavedFacts } from '../conclude/facts.js';
import type { Since } from '../findings/change.js';
import type { Coverage, Question } from '../findings/check.js';
import type { Contents } from '../findings/contents.js';
import type { AcceptedFinding, Finding, Summary } from '../findings/finding.js';
import type { TrialStatement } from '../findings/trial-statement.js';
import type { Made } from './made.js';
import type { REPORT_VERSION } from './version.js';

/** A part of `adder gate`. */
export interface CheckedPart {
  part: string;
  state: 'checked' | 'skipped';
  /** Why it was skipped. */
  because?: string;
}

/** The build that a site serves. */
export interface Served {
  url: string;
  requests: number;
  hosts: string[];
  /** The builds that its files are of; the first one explains most of them. */
  builds: { stage: string; builtAt: string; files: number }[];
  /** Files that no receipt describes. */
  unknown: number;
}

/** An answer that differs between two reports. */
export interface AnswerChange {
  question: Question;
  was: Answer['answer'];
  is: Answer['answer'];
}

/** Differences from an earlier report, besides the new findings. */
export interface ReportChanges {
  /** When the earlier report was made: ISO 8601, UTC. */
  since?: string;
  /** Findings of the earlier report that this one does not have. */
  gone: Finding[];
  /** Findings that both have. */
  same: Finding[];
  answers: AnswerChange[];
}

/**
 * The report of `adder lint` and `adder inspect`, and of whatever stops a command. documents.ts has its schema. This is a
 * type of its own for programs that use the library: they need not have the package that checks schemas.
 */
export interface FindingsReport {
  report: typeof REPORT_VERSION;
  kind: 'findings';
  made?: Made;
  command: string;
  stage?: string;
  coverage?: Coverage;
  /** The three answers (inspect only). */
  answers?: Answers;
  /** Checked and skipped parts (gate only). */
  checked?: CheckedPart[];
  /** Answers for each bundle, if there are several (gate only). */
  bundles?: { bundle: string; answers: Answers }[];
  /** Statements of trial builds (gate only). */
  trials?: TrialStatement[];
  contents?: Contents;
  /** The served site (probe only). */
  served?: Served;
  /** Facts of one shard, from which all shards together are concluded. */
  facts?: SavedFacts;
  /** Changes since the last builds (inspect and gate only). */
  since?: Since[];
  /** Differences from an earlier report (show --changes only); then `findings` are the new ones. */
  changes?: ReportChanges;
  findings: Finding[];
  summary: Summary;
  accepted?: AcceptedFinding[];
}
