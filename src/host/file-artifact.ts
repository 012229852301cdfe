import { isSource } from '../core/files/languages.js';
import type { Artifact, Audience, OriginalFile, RelatedText, ScanAhead } from '../core/inspect/artifact.js';
import { inlineSourceMap, sourceMapAddress } from '../core/inspect/source-map.js';
import { limits } from '../core/limits/index.js';
import { percentDecoded } from '../core/text/percent.js';
import { describeListedError, type FileSource, type Files } from './files.js';
import type { ScanAheadOfTime } from './scan-ahead.js';
import type { ShownPaths } from './shown-paths.js';

/** A file as an artifact. */
export class FileArtifact implements Artifact {
  readonly #files: Files;
  #name: string | undefined;

  /**
   * @param path absolute
   * @param ahead scans of the same files by threads
   */
  constructor(
    readonly path: string,
    readonly audience: Audience,
    readonly paths: ShownPaths,
    readonly ahead?: ScanAheadOfTime,
  ) {
    this.#files = paths.files;
  }

  /** Most files have no findings, and need no name. */
  get name(): string {
    this.#name ??= this.paths.of(this.path);
    return this.#name;
  }

  /** Asked of every file; `basename` takes longer than all that is done with most of them. */
  get fileName(): string {
    const { path } = this.#files;
    return path.sep === '/' ? this.path.slice(this.path.lastIndexOf('/') + 1) : path.basename(this.path);
  }

  async scanAhead(isStopped: (bytes: number) => Promise<boolean>): Promise<ScanAhead | undefined> {
    return this.ahead?.take(this.path, isStopped);
  }

  open(): FileSource {
    return this.#files.open(this.path);
  }

  describeError(error: unknown): string {
    return describeListedError(error);
  }

  /** A map outside the project's directory is opened only beside its script. */
  async sourceMap(): Promise<RelatedText | undefined> {
    if (!/\.(js|mjs|cjs|css)$/.test(this.path)) return undefined;
    const url = sourceMapAddress(this.#text(this.path) ?? '');
    const inline = url === undefined ? undefined : inlineSourceMap(url);
    if (inline !== undefined) return { location: this.path, text: inline };
    const location = this.#mapPath(url);
    const isAllowed = this.#files.isReallyBelow(location, this.paths.root) || this.#isBeside(location);
    const text = isAllowed ? this.#text(location) : undefined;
    return text === undefined ? undefined : { location, text };
  }

  original(reference: string, location: string): OriginalFile {
    const path = this.#absolute(reference, location || this.path);
    if (path === undefined) return { path: this.paths.mask(reference), text: () => undefined };
    const isAllowed = (isSource(path) || isStyle(path)) && this.#files.isReallyBelow(path, this.paths.root);
    return {
      path: this.paths.of(path),
      text: () => (isAllowed ? this.#text(path) : undefined),
    };
  }

  #text(path: string): string | undefined {
    return this.#files.readIfPossible(path, limits.tracedBytes.value)?.toString();
  }

  #mapPath(url: string | undefined): string {
    const { resolve, dirname } = this.#files.path;
    const named =
      url !== undefined && !/^[a-z]+:/i.test(url) ? resolve(dirname(this.path), percentDecoded(url)) : undefined;
    return named !== undefined && this.#files.stat(named)?.isFile() ? named : `${this.path}.map`;
  }

  #isBeside(location: string): boolean {
    const { dirname } = this.#files.path;
    return dirname(location) === dirname(this.path) && this.#files.isReallyBelow(location, dirname(this.path));
  }

  #absolute(reference: string, location: string): string | undefined {
    const { resolve, dirname, join } = this.#files.path;
    if (!/^[a-z-]+:/i.test(reference)) return resolve(dirname(location), reference);
    // webpack names its modules relative to the directory that it was started in, some with a hash at the end.
    const path = /^webpack:\/\/[^/]*\/([^?]*)/.exec(reference)?.[1];
    const inProject = path && join(this.paths.root, path);
    return inProject && this.#files.stat(inProject)?.isFile() ? inProject : undefined;
  }
}

function isStyle(path: string): boolean {
  return /\.(css|s[ac]ss|less|styl)$/i.test(path);
}
