import type { Reach } from '../../src/core/findings/reach.js';

/** A project as somebody would have it who never heard of Adder, and the truth about it, which was written by hand. */
export interface Stranger {
  name: string;
  files: Readonly<Record<string, string>>;
  /** The reach of every variable, by the name in a contract. */
  reaches: Readonly<Record<string, Reach>>;
  /** Variables that a draft asks about. */
  asks?: readonly string[];
  /** Every bundle: where it runs, its tool, its output. */
  bundles?: readonly string[];
  /** Errors and warnings of lint after the draft: level, code, file and variable. */
  lint: readonly string[];
  /** Further errors of lint in a repository, which may track env files. */
  tracked?: readonly string[];
  /** The bundles that `adder with production` builds, each with errors and warnings of inspect: level, code, file and variable. */
  builds?: Readonly<Record<string, readonly string[]>>;
  /** Build and server variables that a build lets out, whatever their values are. */
  letsOut?: readonly string[];
  /** Errors and warnings of values after the draft: level, code, stage and variable. */
  values?: readonly string[];
}
