import type { Code } from '../findings/codes.js';
import type { Origin, Place, RawFinding } from '../findings/finding.js';
import type { Mark } from '../search/marks.js';
import type { MarkHit } from '../search/scan.js';
import type { Excerpt } from '../text/frame.js';
import type { RunsIn } from '../toolchains/toolchain.js';
import type { Audience } from './artifact.js';
import type { Content } from './content.js';
import type { ValueHit } from './hits.js';
import type { SearchPlan } from './plan.js';

/** A range of bytes with everything that a report shows about it. */
export interface Described {
  place: Place;
  /** The source line that it comes from. */
  origin?: Origin;
  /** Without a source map: names of functions, variables and properties around the place, from the outside inwards; masked. */
  within?: string[];
  /** That line, or the text around the range; masked. */
  excerpt?: Excerpt;
}

/** A file by its names, where a rule decides by them. */
export interface FileNames {
  /** Without directories. */
  fileName: string;
  /** With directories and containers, separated by `/`. */
  path: string;
}

/** The contract's settings of the artifact's bundle. */
export interface BundleFacts {
  /** Tells whether a source file never reaches the browser. Gets a path as reports show it. */
  isServerCode?(path: string): boolean;
  /** Where it runs; absent if that makes no difference. */
  runs?: RunsIn;
  /** True if the contract forbids source maps in what ships. */
  forbidsMaps: boolean;
  /** How its tool makes a build that ships, as an imperative; if absent, by NODE_ENV. */
  productionBuild?: string;
  /** True if other packages import its output: their build replaces NODE_ENV in it. */
  isLibrary?: boolean;
  /** True if the contract has its build command. */
  isBuiltHere?: boolean;
}

/** Facts about the inspected artifact besides its bytes. */
export interface Inspected {
  /** The stage that the artifacts should be for. */
  stage: string;
  bundle?: string;
  /** Absent for files that belong to no bundle. */
  facts?: BundleFacts;
  audience: Audience;
  /** True if public values are traced to their sources. */
  withOrigins?: boolean;
  /** Tells whether embedded files are hashed, to recognise those of earlier builds. Asked only if there are some. */
  withDigests?(): boolean;
  /** The directories to empty, if the last build did not write the artifact. Asked only about artifacts with findings. */
  leftOver?(): string | undefined;
}

/** The hits of a rule in one content, with what surrounds them. */
export interface Surroundings {
  plan: SearchPlan;
  content: Content;
  /** Findings of earlier rules in the same content. */
  found: readonly RawFinding[];
  inspected: Inspected;
  /** Whole and partial values in the content, longest first where they overlap. */
  values: readonly ValueHit[];
  /**
   * Describes byte ranges, in the order given.
   * @param locate finds the range in a line of source code that the source map leads to
   */
  describe(ranges: readonly DescribedRange[]): Promise<Described[]>;
  /** The path, as reports show it, of a source that a map in the content names. */
  originalPath(address: string): string;
  /** How much of a script comes from each source file, in UTF-16 code units; empty for embedded files and without a source map. */
  sourceSizes(): Promise<ReadonlyMap<string, number>>;
  /** Values in other bytes or text, such as a script's joined strings. */
  valuesIn(bytes: Uint8Array): readonly ValueHit[];
  /** Reports that the rule could not check all of the content. */
  unread(because: string): void;
}

export interface DescribedRange {
  start: number;
  end: number;
  /** True if the source line that it comes from is not needed. */
  isBrief?: boolean;
  locate?(line: Uint8Array): { start: number; end: number } | undefined;
}

/** The stage and bundle of a finding in a file. */
export function subject({ stage, bundle }: Pick<Inspected, 'stage' | 'bundle'>): { stage: string; bundle?: string } {
  return { stage, ...(bundle !== undefined && { bundle }) };
}

/** One rule over artifacts. One file per rule, one line in rules/index.ts. */
export interface ArtifactRule {
  codes: readonly Code[];
  /** The byte strings whose hits it needs. Hits are distributed by kind. */
  marks(plan: SearchPlan): readonly Mark[];
  /** Tells whether it checks a file of these names even without hits. */
  wants?(names: FileNames, inspected: Inspected): boolean;
  /** Kinds of hits that come from no byte strings. */
  kinds?: readonly string[];
  /** Called once for each content that has hits of the rule's kinds. */
  check(hits: readonly MarkHit[], surroundings: Surroundings): Promise<RawFinding[]>;
}
