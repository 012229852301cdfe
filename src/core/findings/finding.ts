import type { Excerpt } from '../text/frame.js';
import type { Code, FactsOf, VariantOf } from '../words/catalogue.js';
import type { Facts } from '../words/words.js';
import type { Level } from './codes.js';
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

/** Properties of any finding besides its own facts. */
export interface FindingContext {
  level?: Level;
  variable?: string;
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
  excerpt?: Excerpt;
  /** The layer that it is about, if that is a command, which has no lines. */
  layer?: string;
}

/** A finding as rules return it: data, without any words. No text in it may hold a value of reach build or server. */
export interface RawFinding extends FindingContext {
  code: Code;
  /** The case of the code that the finding is about. */
  variant: string;
  /** Facts for the words of the variant. */
  facts: Facts;
}

/** A finding with its level and fingerprint. Findings with one fingerprint are one problem in several places. */
export interface JudgedFinding extends RawFinding {
  level: Level;
  /** Reach of the variable, if the contract declares it. */
  reach?: Reach;
  fingerprint: string;
}

/** A finding as reports have it: with its words, which nothing but printers and people read. */
export interface Finding extends JudgedFinding {
  message: string;
  /** Remedy, with commands that can be pasted. */
  remedy: string;
}

/** A finding that the contract accepts. */
export type AcceptedFinding = Finding & { because: string; until: string };

/** Fields of the context that are among the facts of many variants. */
const shared = ['variable', 'stage', 'bundle'] as const;

/**
 * The only way to make a finding: its facts are checked against what the variant's words need. The variable, stage and bundle
 * among them are also those of the finding.
 */
export function finding<C extends Code, V extends VariantOf<C>>(
  code: C,
  variant: V,
  facts: FactsOf<C, V>,
  more: FindingContext = {},
): RawFinding {
  const about: FindingContext = {};
  for (const name of shared) {
    const fact = (facts as Partial<Facts>)[name];
    if (typeof fact === 'string') about[name] = fact;
  }
  const known = Object.entries(facts as Facts).filter(([, fact]) => fact !== undefined);
  return { code, variant, facts: Object.fromEntries(known), ...about, ...more };
}

export interface Summary {
  error: number;
  warning: number;
  note: number;
  accepted: number;
}
