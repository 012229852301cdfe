import type { Reach } from '../contract/contract.js';
import type { Finding, Summary } from '../findings/finding.js';
import type { Unsought } from '../inspect/plan.js';
import type { Source } from '../resolve/layers.js';
import type { ValueState } from '../resolve/value-state.js';
import type { CompareReport } from './compare.js';
import type { WhyReport } from './why.js';

/** The version of the JSON shapes; it changes when they do. */
export const REPORT_VERSION = 1;

/** Something that was not read, by path from the contract's folder; `inside` names members of containers. */
export interface Unread {
  path: string;
  inside: string[];
  because: string;
}

/** What an inspection looked at. A clean report means that all of it was read. */
export interface Coverage {
  files: number;
  members: number;
  bytes: number;
  unread: Unread[];
  /** Pipes, sockets and devices, and links to nothing: never opened. */
  passedOver?: Unread[];
  /** Values that stand in every bundle, and so are not looked for. */
  notSearched?: Unsought[];
}

/** The result of a command that says findings. */
export interface FindingsReport {
  report: typeof REPORT_VERSION;
  command: string;
  stage?: string;
  coverage?: Coverage;
  findings: Finding[];
  summary: Summary;
}

/** A variable in one stage. `value` is there for public ones, and where it was asked for by name. */
export interface ValueRow {
  name: string;
  reach: Reach;
  form: string;
  state: ValueState;
  value?: string;
  from?: Source;
  overrides: Source[];
  /** Bundle to the name that its code reads. */
  names: Record<string, string>;
}

/** The result of `adder values`. */
export interface ValuesReport {
  report: typeof REPORT_VERSION;
  command: 'values';
  stage: string;
  values: ValueRow[];
  findings: Finding[];
  summary: Summary;
}

/** The result of `adder values --all`: every stage, and the findings of all of them together. */
export interface AllValuesReport {
  report: typeof REPORT_VERSION;
  command: 'values';
  stages: { stage: string; values: ValueRow[] }[];
  findings: Finding[];
  summary: Summary;
}

/** The result of `adder draft`. */
export interface DraftReport {
  report: typeof REPORT_VERSION;
  command: 'draft';
  /** The contract's file. */
  contract: string;
  /** Whether it was written; not with --dry-run. */
  written: boolean;
  /** Whether the entries were added to a contract that was there. */
  merged: boolean;
  drafted: {
    stages: { stage: string; layers: string[]; because: string }[];
    bundles: { bundle: string; runs: string; toolchain: string; because: string }[];
    variables: { name: string; reach: Reach; form: string; because: string[] }[];
  };
  /** What could not be decided. */
  findings: Finding[];
  summary: Summary;
}

export type Report = FindingsReport | ValuesReport | AllValuesReport | CompareReport | WhyReport | DraftReport;
