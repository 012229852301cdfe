import { basename, dirname, join, resolve } from 'node:path';
import type { Artifact, Audience, OriginalFile, RelatedText, ScanAhead } from '../core/inspect/artifact.js';
import { inlineSourceMap, sourceMapAddress } from '../core/inspect/source-map.js';
import { limits } from '../core/limits/index.js';
import { isSource } from '../core/reads/index.js';
import { describeFileError, FileSource, readHelpfulText, statOf } from './files.js';
import { isReallyBelow } from './paths.js';
import type { ScanAheadOfTime } from './scan-ahead.js';
import type { ShownPaths } from './shown-paths.js';

/** A file as an artifact. */
export class FileArtifact implements Artifact {
  readonly name: string;
  readonly fileName: string;

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
    this.name = paths.of(path);
    this.fileName = basename(path);
  }

  async scanAhead(isStopped: (bytes: number) => Promise<boolean>): Promise<ScanAhead | undefined> {
    return this.ahead?.take(this.path, isStopped);
  }

  open(): FileSource {
    return new FileSource(this.path);
  }

  describeError(error: unknown): string {
    return describeFileError(error);
  }

  /** A map outside the project's directory is opened only beside its script. */
  async sourceMap(): Promise<RelatedText | undefined> {
    if (!/\.(js|mjs|cjs|css)$/.test(this.path)) return undefined;
    const most = limits.tracedBytes.value;
    const url = sourceMapAddress(readHelpfulText(this.path, most) ?? '');
    const inline = url === undefined ? undefined : inlineSourceMap(url);
    if (inline !== undefined) return { location: this.path, text: inline };
    const location = this.#mapPath(url);
    const isAllowed = isReallyBelow(location, this.paths.root) || this.#isBeside(location);
    const text = isAllowed ? readHelpfulText(location, most) : undefined;
    return text === undefined ? undefined : { location, text };
  }

  original(reference: string, location: string): OriginalFile {
    const path = this.#absolute(reference, location || this.path);
    if (path === undefined) return { path: this.paths.mask(reference), text: () => undefined };
    const isAllowed = (isSource(path) || isStyle(path)) && isReallyBelow(path, this.paths.root);
    return {
      path: this.paths.of(path),
      text: () => (isAllowed ? readHelpfulText(path, limits.tracedBytes.value) : undefined),
    };
  }

  #mapPath(url: string | undefined): string {
    const named = url !== undefined && !/^[a-z]+:/i.test(url) ? resolve(dirname(this.path), decoded(url)) : undefined;
    return named !== undefined && statOf(named)?.isFile() ? named : `${this.path}.map`;
  }

  #isBeside(location: string): boolean {
    return dirname(location) === dirname(this.path) && isReallyBelow(location, dirname(this.path));
  }

  #absolute(reference: string, location: string): string | undefined {
    if (!/^[a-z-]+:/i.test(reference)) return resolve(dirname(location), reference);
    // webpack names its modules relative to the directory that it was started in, some with a hash at the end.
    const path = /^webpack:\/\/[^/]*\/([^?]*)/.exec(reference)?.[1];
    const inProject = path && join(this.paths.root, path);
    return inProject && statOf(inProject)?.isFile() ? inProject : undefined;
  }
}

function isStyle(path: string): boolean {
  return /\.(css|s[ac]ss|less|styl)$/i.test(path);
}

function decoded(url: string): string {
  try {
    return decodeURIComponent(url);
  } catch {
    return url;
  }
}
