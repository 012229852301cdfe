import type { NamedFile } from '../files/value-files.js';
import type { FindingContext } from '../findings/finding.js';
import type { SourceText } from '../lint/model.js';
import type { ResolveModule } from '../lint/reachability.js';
import type { Read } from '../reads/read.js';
import type { ReadLayer } from '../resolve/layer.js';
import type { Range } from '../text/ranges.js';

/** A file of values that the project has. Paths are relative to the contract's directory, with slashes. */
export interface ValueFile extends NamedFile {
  path: string;
  /** The key of a file that has several stages, whose values these are. */
  key?: string;
  layer: ReadLayer;
  /** For an example file: the comment above a name. */
  about: ReadonlyMap<string, string>;
}

/** A layer of the draft as text: its file, and the key in it. */
export function layerText({ path, key }: Pick<ValueFile, 'path' | 'key'>): string {
  return key === undefined ? path : `${path} (${key})`;
}

/** The file and key that {@link layerText} wrote. */
export function layerOfText(text: string): Pick<ValueFile, 'path' | 'key'> {
  const [, path = text, key] = /^(.+) \(([^()]+)\)$/.exec(text) ?? [];
  return { path, ...(key !== undefined && { key }) };
}

/** A source text with what it reads. */
export interface SourceFile {
  path: string;
  reads: readonly (Read & { line: number; column: number })[];
  /** The parts that a framework with a server runs there. */
  onServer: readonly Range[];
}

/** A URL of one machine in source code. */
export interface LocalUrl {
  path: string;
  url: string;
  line: number;
  column: number;
}

/** A package manifest. */
export interface Package {
  /** With its slash; empty for the root. */
  folder: string;
  name: string;
  isDart: boolean;
  scripts: Readonly<Record<string, string>>;
  dependencies: readonly string[];
}

/** A configuration file of a build tool, as text. */
export interface ConfigFile {
  path: string;
  text: string;
}

/** A file or directory beyond a limit. `because` is a phrase that follows the path. */
export interface LeftOut {
  path: string;
  because: string;
}

/** All that a draft is made from. */
export interface Material {
  files: readonly ValueFile[];
  sources: readonly SourceFile[];
  /** Every source file that was read, by its path. */
  modules: ReadonlyMap<string, SourceText>;
  /** The project's own file that an import means. */
  resolve: ResolveModule;
  localUrls: readonly LocalUrl[];
  /** Workflow files of pipelines, as text. */
  workflows: readonly ConfigFile[];
  packages: readonly Package[];
  configs: readonly ConfigFile[];
  /** Every file, relative to the contract's directory, with slashes. */
  paths: readonly string[];
  /** Pages, with the scripts that they load, as such paths. */
  pages: readonly { path: string; loads: readonly string[] }[];
  leftOut: readonly LeftOut[];
  /** Tells whether a path exists in the project. */
  exists(path: string): boolean;
  /** The text of a file that a configuration imports; undefined if there is none. */
  text(path: string): string | undefined;
}

/** The place of what a person has to decide. */
export function decidedAt(
  place: { path?: string | undefined; line?: number | undefined; column?: number | undefined } | undefined,
): FindingContext {
  const { path, line, column } = place ?? {};
  return path === undefined ? {} : { place: { path, inside: [], ...(line && { line }), ...(column && { column }) } };
}
