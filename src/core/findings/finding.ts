import type { Excerpt } from '../text/frame.js';
import type { Code, Level } from './codes.js';
import type { Reach } from './reach.js';

/** The place of a finding: a file, or a file inside containers. Units as in {@link Position}. */
export interface Place {
  /** Relative to the contract's directory, with `/`; as given if it is outside. */
  path: string;
  /** The chain of containers from the file inwards; empty for the file itself. */
  inside: string[];
  /** From 1. */
  line?: number;
  /** From 1, in UTF-16 code units. */
  column?: number;
  endLine?: number;
  /** As `column`; the end is not part of the place. */
  endColumn?: number;
  /** From 0, in bytes of the innermost member. */
  offset?: number;
  /** In bytes. */
  length?: number;
}

/** The source line that a hit comes from, by the source map. */
export interface Origin {
  path: string;
  line: number;
  column: number;
}

/** One thing to say. No text in it may hold a value of reach build or server. */
export interface Finding {
  code: Code;
  level: Level;
  variable?: string;
  /** Of the variable, if the contract declares it. */
  reach?: Reach;
  stage?: string;
  bundle?: string;
  place?: Place;
  /** From the outside inwards; `["plain"]` for the value itself. */
  encoding?: string[];
  origin?: Origin;
  /** Without a source map: names of functions, variables and properties around the place, from the outside inwards. */
  within?: string[];
  /** The files from an entry of the bundle to the one with the finding, each imported by the one before. */
  chain?: string[];
  message: string;
  remedy: string;
  fingerprint: string;
  excerpt?: Excerpt;
}

/** A finding that the contract accepts. */
export type AcceptedFinding = Finding & { because: string; until: string };

/** What rules return: the level and the fingerprint are settled when the report is made. */
export type RawFinding = Omit<Finding, 'fingerprint' | 'level'> & { level?: Level };

export interface Summary {
  error: number;
  warning: number;
  note: number;
  accepted: number;
}
