import type { Scan } from '../search/scan.js';
import type { ByteSource } from '../unpack/format.js';

/** Who gets a file of a build: everybody, those with the server's files, or those with the tool's cache. */
export type Audience = 'browser' | 'server' | 'cache';

/** The bytes of an artifact while they are open. */
export interface ArtifactSource extends ByteSource {
  /** Changes whenever the content may have changed. */
  readonly version: number;
  /** True if the content is known to be zeros only, without reading it. */
  readonly isHole: boolean;
  /** True if the content changed since it was opened. */
  readonly hasChanged: boolean;
  /** Fills a buffer, or part of it. @returns the number of bytes, 0 at the end */
  readInto(buffer: Uint8Array, offset: number): number;
  close(): void;
}

/** A text that belongs to an artifact, such as its source map. */
export interface RelatedText {
  /** Where it is, for references in it. Never shown. */
  location: string;
  text: string;
}

/** A file that a source map names. */
export interface OriginalFile {
  /** The path as reports show it. */
  path: string;
  /** Undefined if it may not be opened: only source code of the project may. */
  text(): string | undefined;
}

/** A scan of an artifact before its turn. It is valid while the source has the same version and size. */
export interface ScanAhead {
  scan: Scan;
  version: number;
  /** Kind of embedded files. */
  holds: Holds;
}

/** Embedded content of an artifact: texts, such as those of a source map, or files of any kind. Files are always known. */
export type Holds = 'nothing' | 'texts' | 'files' | 'unknown';

/** Something that ships. Directories, file lists and web sites provide them; a scan never sees a path. */
export interface Artifact {
  /** The name as reports show it. */
  name: string;
  /** Its own name without directories, which tells formats and languages without a signature. */
  fileName: string;
  audience: Audience;
  /** A scan that was made ahead of time, for providers that have threads. @param isStopped see ArtifactSearch */
  scanAhead?(isStopped: (bytes: number) => Promise<boolean>): Promise<ScanAhead | undefined>;
  /** @throws an error of the provider, which {@link describeError} turns into a phrase */
  open(): ArtifactSource;
  /** An error of {@link open} or of reading, as a phrase that follows the name. */
  describeError(error: unknown): string;
  /** The source map: inside the text, at the URL that it names, or beside it. */
  sourceMap(): Promise<RelatedText | undefined>;
  /** A source that the map at `location` names. */
  original(reference: string, location: string): OriginalFile;
}

/**
 * Reads a source that another program may truncate at any time, so that offsets of a scan no longer exist.
 * @returns nothing if that made the work fail @throws any error about a source that did not change
 */
export async function unlessChanged<T>(source: ArtifactSource, work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    if (!source.hasChanged) throw error;
    return undefined;
  }
}
