import { type ByteStrings, byteStrings } from '../needles/byte-strings.js';
import { type Mark, RUN, WINDOW } from '../search/marks.js';
import type { Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import type { Runs } from '../search/runs.js';
import { DATA_URI } from '../search/scan.js';
import type { ByteWindows } from '../search/windows/byte-windows.js';
import { dataUriMarks } from '../unpack/data-uri.js';
import type { SearchPlan } from './plan.js';
import type { ArtifactRule } from './rule.js';
import { artifactRules } from './rules/index.js';
import { ANCHOR, VALUE } from './rules/known-values.js';
import { tokenRuns } from './token-runs.js';

/** The marks of a plan and its rules, with the matcher that finds them. The plan's needles come first. */
export interface MarkTable {
  marks: ByteStrings;
  /** The kind of each; after them, of runs and of each recorded value. */
  kinds: readonly string[];
  /** The kinds of each rule's marks. */
  kindsOf: ReadonlyMap<ArtifactRule, ReadonlySet<string>>;
  /** Other marks that the matcher reports. */
  runs: Runs | undefined;
  /** Recorded values, whose stretches the matcher reports after all others. */
  windows: ByteWindows | undefined;
  /** Its tables take longer to make than most searches, so it is shared. */
  matcher: Matcher;
}

/** Collects the marks of all rules, and those of data: URIs. @param inputBytes see {@link matcherFor} */
export function markTable(plan: SearchPlan, inputBytes?: number): MarkTable {
  const byRule = artifactRules.map((rule) => ({ rule, marks: rule.marks(plan) }));
  const ofUris = dataUriMarks.map((bytes): Mark => ({ kind: DATA_URI, bytes }));
  const others = [...byRule.flatMap(({ marks }) => marks), ...ofUris];
  const { needles } = plan;
  const marks = byteStrings(
    others.map(({ bytes }) => bytes),
    needles.strings,
  );
  const ofNeedles = Array<string>(needles.length).fill(VALUE).fill(ANCHOR, 0, needles.anchors.length);
  const runs = plan.unknownSecrets ? tokenRuns : undefined;
  const windows = plan.recorded?.search.windows;
  return {
    marks,
    kinds: [...ofNeedles, ...others.map(({ kind }) => kind), RUN, ...Array<string>(windows?.owners ?? 0).fill(WINDOW)],
    kindsOf: new Map(
      byRule.map(({ rule, marks }) => [rule, new Set([...marks.map(({ kind }) => kind), ...(rule.kinds ?? [])])]),
    ),
    runs,
    windows,
    matcher: matcherFor(marks, undefined, runs, inputBytes, windows),
  };
}
