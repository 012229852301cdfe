import type { Bundle, Contract } from '../contract/contract.js';
import type { Origin } from '../evaluate/value.js';
import type { Place, RawFinding } from '../findings/finding.js';
import { placeBetween } from '../findings/place.js';
import type { Import, Read } from '../reads/read.js';
import type { Resolution } from '../resolve/resolve.js';
import type { Excerpt } from '../text/frame.js';
import type { Position } from '../text/positions.js';
import type { Range } from '../text/ranges.js';
import { toolchainOf } from '../toolchains/index.js';
import type { BuildSettings } from '../toolchains/settings.js';

/** A source file of the project. */
export interface SourceText {
  /** Relative to the contract's directory, with slashes. */
  path: string;
  text: string;
  reads: readonly Read[];
  imports: readonly Import[];
  /** Why it could be read only in part. */
  problem?: { message: string; offset: number } | undefined;
}

/** The code of a bundle: which of it reaches the browser, and which stays on the server or in the build. */
export interface BundleCode {
  bundle: Bundle;
  /** Files that reach the browser, each with the files that lead to it from an entry, itself last. */
  shipped: ReadonlyMap<string, readonly string[]>;
  /** Files that ship as they are, since code starts them by their addresses: nothing in them is replaced. */
  copied: ReadonlySet<string>;
  /** Ranges that run on the server, by files that reach the browser. */
  serverParts: ReadonlyMap<string, readonly Range[]>;
  /** Files of the bundle's code that run on the server. */
  onServer: ReadonlySet<string>;
}

/** A piece of text that may be shown. */
export type Show = (file: SourceText, start: number, end: number) => Excerpt | undefined;

/** The names and expressions that a configuration lists. */
export interface Inlined {
  /** Absent if only a build tells. */
  names?: ReadonlySet<string>;
  /** The path of the configuration. */
  path: string;
}

/** All that rules about code know. */
export interface LintContext {
  contract: Contract;
  /** Every stage from its own files. */
  stages: readonly Resolution[];
  files: ReadonlyMap<string, SourceText>;
  bundles: readonly BundleCode[];
  /** Native source texts by path: Rust, Kotlin, Java, Swift and Gradle. */
  native: ReadonlyMap<string, string>;
  /** The names that a bundle's configuration inlines, where its tool inlines only these. */
  inlined(bundle: Bundle): Inlined | undefined;
  /** The settings of a bundle's build, from all its configurations. */
  settings(bundle: Bundle): BuildSettings;
  /** Tells whether a bundle's build has the Adder plugin, which replaces reads in every form. */
  hasPlugin(bundle: string): boolean;
  /** The project's own file that an import means. */
  resolve(from: string, specifier: string): string | undefined;
  /** Line and column of an offset. */
  at(file: SourceText, offset: number): Position;
  show: Show;
  /** A text with every secret value and every text with a secret's shape masked. */
  mask(text: string): string;
}

/** Tells whether a file of a bundle ships as it is, so that neither the tool nor the plugin replaces anything in it. */
export function shipsAsItIs(context: LintContext, { bundle, copied }: BundleCode, path: string): boolean {
  return copied.has(path) && !(toolchainOf(bundle).loadsCopies && context.hasPlugin(bundle.name));
}

/** A text edit that fixes a finding. Offsets are UTF-16 code units. */
export interface Edit {
  path: string;
  start: number;
  end: number;
  text: string;
}

/** A finding of a rule, with a fix if that is safe. */
export interface LintFinding extends RawFinding {
  fix?: readonly Edit[];
}

export type LintRule = (context: LintContext) => LintFinding[];

/** The place of a finding, with its line. */
export function placed(
  context: LintContext,
  file: SourceText,
  start: number,
  end: number,
): { place: Place; excerpt?: Excerpt } {
  const excerpt = context.show(file, start, end);
  const place = placeBetween(file, context.at(file, start), context.at(file, end));
  return { place, ...(excerpt && { excerpt }) };
}

/** The place of a finding in a file that may be outside of the project's sources. */
export function placedAt(context: LintContext, { path, start, end }: Origin): { place: Place; excerpt?: Excerpt } {
  const file = context.files.get(path);
  return file ? placed(context, file, start, end) : { place: { path, inside: [] } };
}
