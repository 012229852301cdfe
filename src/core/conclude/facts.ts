import type { Acceptance } from '../findings/acceptance.js';
import type { Since } from '../findings/change.js';
import { type Coverage, distinct, joinCoverage } from '../findings/check.js';
import type { Level } from '../findings/codes.js';
import { type Contents, joinContents } from '../findings/contents.js';
import type { Place, RawFinding } from '../findings/finding.js';
import type { Rules } from '../findings/judge.js';
import type { Reach } from '../findings/reach.js';
import type { SiteFacts } from '../probe/site.js';
import type { BuildFacts } from '../receipt/build-facts.js';
import type { Excerpt } from '../text/frame.js';

/** A file of an output that a receipt may describe. `inside` leads to an embedded file. */
export interface DigestedFile {
  path: string;
  inside: string[];
  /** SHA-256 in hexadecimal; of a page a second one, without the tag for load-time values. */
  sha256: string[];
}

/** A value that the output had at its build and that changed since, where it is now. */
export interface LocatedPlace {
  /** The path of the receipt. */
  receipt: string;
  variable: string;
  /** The path at the build, and the offset in bytes. */
  path: string;
  offset: number;
  place: Place;
  excerpt?: Excerpt;
}

/** A value of an earlier build in the output, where the current one should be. */
export interface PastValue {
  variable: string;
  /** When the newest build with the value was made: ISO 8601, UTC. */
  builtAt: string;
  place: Place;
  /** The source file and line that has the text. */
  source?: string;
  /** Caches of the build tool that exist. */
  caches: string[];
  /** The option that builds without a cache elsewhere. */
  uncached?: string;
}

/** Facts about one output, or one site. */
export interface OutputFacts {
  bundle?: string;
  /** True if it is everything that the bundle ships: only then can something be missing. */
  isWhole: boolean;
  /** Findings about single files. */
  found: RawFinding[];
  /** Public variables whose value is in it. */
  present: string[];
  /** Public variables that its build is given; a flag or a short word need not leave a trace. */
  expected: { variable: string; leavesTrace: boolean }[];
  /** Where the bundle's code reads public variables; read only if some value is not there. */
  reads: { variable: string; place: Place }[];
  /** The option that builds without the tool's cache. */
  uncached?: string;
  /**
   * Variables whose value in another stage is also in the bundle's own code, and whether this stage has a value. `source` is the file and
   * line of a value that only unimported files contain: lint does not check such files.
   */
  inCode: { variable: string; hasValue: boolean; source?: string }[];
  past: PastValue[];
  /** The last build of the whole output. */
  build?: BuildFacts;
  /** Builds that some of the files are of, the newest of each bundle first. */
  earlier: BuildFacts[];
  /** True if files can be compared with builds. */
  hasBuilds: boolean;
  files: DigestedFile[];
  located: LocatedPlace[];
  /** Findings about values that the app reads when it loads. */
  loadTime: RawFinding[];
  /** Directories that were not searched: paths. */
  skipped: string[];
  /** Answers of a server. */
  site?: SiteFacts;
}

/** Which part of the outputs one machine inspects, from 1, and how many parts there are. */
export interface PartNumber {
  part: number;
  of: number;
}

/** The part of the outputs that one machine inspected. */
export interface Shard extends PartNumber {
  /** Digest of the list of all files. Parts with another one are of another output. */
  listing: string;
}

/** Everything that an inspection saw, as plain data. Nothing is concluded here: facts are saved, read again and added. */
export interface Facts {
  stage: string;
  variables: { name: string; reach: Reach }[];
  coverage: Coverage;
  /** Build and server variables without a value here, which no search can find. */
  withoutValue: string[];
  /** Why the history does not help, if the contract requires it. */
  withoutHistory?: string;
  outputs: OutputFacts[];
  contents?: Contents;
  since: Since[];
  /** True if all outputs of the project were inspected, and not single files of it. */
  isAll: boolean;
  /** The stage of the newest build, if there is one. */
  builtStage?: string;
  /** The parts that these facts are of, if the outputs were inspected in parts. */
  shards: Shard[];
}

/** Facts in a report, with what the contract says about findings: whoever adds them needs no contract. */
export interface SavedFacts extends Facts {
  rules: Pick<Rules, 'path'> & { levels: Record<string, Level>; accept: Acceptance[] };
}

/** An output with known findings in its files, and no other facts. */
export function looseOutput(found: RawFinding[], bundle?: string): OutputFacts {
  return {
    ...(bundle !== undefined && { bundle }),
    ...{ found, isWhole: false, hasBuilds: false },
    ...{
      present: [],
      expected: [],
      reads: [],
      inCode: [],
      past: [],
      earlier: [],
      files: [],
      located: [],
      loadTime: [],
      skipped: [],
    },
  };
}

/** Facts of two shards of the same outputs. */
export function addFacts(a: Facts, b: Facts): Facts {
  return together(a, b, addOutputs([...a.outputs, ...b.outputs]));
}

/** Facts of two parts of a project with layers of their own. */
export function besides(a: Facts, b: Facts): Facts {
  return together(a, b, [...a.outputs, ...b.outputs]);
}

function together(a: Facts, b: Facts, outputs: OutputFacts[]): Facts {
  const contents = joinContents([a, b].flatMap((one) => one.contents ?? []));
  return {
    ...a,
    variables: distinct([...a.variables, ...b.variables]),
    coverage: joinCoverage([a.coverage, b.coverage]) as Coverage,
    withoutValue: distinct([...a.withoutValue, ...b.withoutValue]),
    outputs,
    ...(contents && { contents }),
    since: distinct([...a.since, ...b.since]),
    isAll: a.isAll && b.isAll,
    shards: distinct([...a.shards, ...b.shards]),
  };
}

/** One output for each bundle: shards of one output are added. */
function addOutputs(all: readonly OutputFacts[]): OutputFacts[] {
  const byBundle = new Map<string | undefined, OutputFacts>();
  for (const one of all) {
    const known = byBundle.get(one.bundle);
    byBundle.set(one.bundle, known ? addOutput(known, one) : one);
  }
  return [...byBundle.values()];
}

function addOutput(a: OutputFacts, b: OutputFacts): OutputFacts {
  const both = <T>(list: (output: OutputFacts) => readonly T[]) => distinct([...list(a), ...list(b)]);
  return {
    ...a,
    ...b,
    isWhole: a.isWhole || b.isWhole,
    hasBuilds: a.hasBuilds || b.hasBuilds,
    // A finding that stands for several files is the first of them, whichever part it is in.
    found: [...a.found, ...b.found].sort(byPath),
    present: both((one) => one.present),
    expected: both((one) => one.expected),
    reads: both((one) => one.reads),
    inCode: both((one) => one.inCode),
    past: both((one) => one.past),
    earlier: both((one) => one.earlier),
    files: both((one) => one.files),
    located: both((one) => one.located),
    loadTime: both((one) => one.loadTime),
    skipped: both((one) => one.skipped),
  };
}

function byPath({ place: a }: RawFinding, { place: b }: RawFinding): number {
  const [one = '', other = ''] = [a?.path, b?.path];
  return one < other ? -1 : one > other ? 1 : 0;
}
