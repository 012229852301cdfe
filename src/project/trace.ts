import { dirname, join, resolve } from 'node:path';
import type { Origin, Place } from '../core/findings/finding.js';
import { type ValueHit, valuesIn } from '../core/inspect/hits.js';
import type { Masker } from '../core/inspect/masked-text.js';
import type { Owner, SearchPlan } from '../core/inspect/plan.js';
import { inlineSourceMap, SourceMap, sourceMapAddress, TooManyMappings } from '../core/inspect/source-map.js';
import { limits } from '../core/limits/index.js';
import { isSource } from '../core/reads/index.js';
import type { Matcher } from '../core/search/matcher.js';
import type { Excerpt } from '../core/text/frame.js';
import { excerptOf } from '../core/text/frame.js';
import { LineMap } from '../core/text/positions.js';
import { readHelpfulText, statOf } from '../host/files.js';
import { isReallyBelow } from '../host/paths.js';
import type { ShownPaths } from './shown-paths.js';

/** The line of source that wrote a value, and how it looks. */
export interface TracedLine {
  origin: Origin;
  excerpt?: Excerpt;
}

/** Follows hits in one artifact to the line of source that wrote them. No file outside the contract's folder is opened. */
export class Tracer {
  #map: SourceMap | undefined;
  #mapPath: string;
  #hasFailed = false;

  constructor(
    path: string,
    readonly paths: ShownPaths,
    readonly plan: SearchPlan,
    readonly masker: Masker,
    /** For the plan's needles. */
    readonly matcher: Matcher,
    /** Told once why the map is of no use. */
    readonly failed: (because: string) => void,
  ) {
    this.#mapPath = path;
    this.#try(() => {
      const found = findMap(path, paths.root);
      this.#mapPath = found?.mapPath ?? path;
      this.#map = found?.text === undefined ? undefined : new SourceMap(found.text, this.#mapPath);
    });
  }

  /** A map may say anything; what goes wrong with it must not take the hit along. */
  trace(owner: Owner, place: Place): TracedLine | undefined {
    return this.#try(() => this.#trace(owner, place));
  }

  #try<T>(step: () => T): T | undefined {
    if (this.#hasFailed) return undefined;
    try {
      return step();
    } catch (error) {
      this.#hasFailed = true;
      const why = error instanceof TooManyMappings ? error.message : 'is damaged';
      this.failed(`has a source map that ${why}, so hits in it are not traced to their source`);
      return undefined;
    }
  }

  #trace(owner: Owner, place: Place): TracedLine | undefined {
    const traced = this.#map?.trace(place.line ?? 1, place.column ?? 1);
    if (!traced) return undefined;
    const text = traced.content ?? this.#readSource(traced.source);
    const path = sourcePath(traced.source, this.#mapPath, this.paths);
    if (text === undefined) return { origin: { path, line: traced.line, column: traced.column } };
    return this.#inLine(Buffer.from(text), path, traced.line, traced.column, owner);
  }

  /** A map points at the expression; the value may stand further on in its line. */
  #inLine(bytes: Uint8Array, path: string, line: number, column: number, owner: Owner): TracedLine {
    const lines = new LineMap(bytes);
    const lineStart = lines.startOf(line);
    const text = lines.text(line);
    const from = lineStart + Buffer.byteLength(text.slice(0, column - 1));
    const lineEnd = lineStart + Buffer.byteLength(text);
    const value = this.#valuesIn(bytes.subarray(from, lineEnd)).find((hit) => hit.owner === owner);
    return this.#tracedLine(bytes, lines, path, from + (value?.start ?? 0), from + (value?.end ?? 1));
  }

  #tracedLine(bytes: Uint8Array, lines: LineMap, path: string, start: number, end: number): TracedLine {
    const { line, column } = lines.at(start);
    const lineStart = lines.startOf(line);
    const lineEnd = lineStart + Buffer.byteLength(lines.text(line));
    const piece = this.masker.piece(bytes, lineStart, lineEnd, { start, end: Math.min(end, lineEnd) });
    const excerpt = piece && excerptOf(line, piece.text, piece.start + 1, piece.end - piece.start);
    return { origin: { path, line, column }, ...(excerpt && { excerpt }) };
  }

  #valuesIn(bytes: Uint8Array): ValueHit[] {
    return valuesIn(this.matcher, this.plan.needles, bytes);
  }

  /** A map may name any file: only source code below the contract's folder is opened, and no symlink leads out of it. */
  #readSource(source: string): string | undefined {
    const path = absolute(source, this.#mapPath, this.paths.root);
    return path && (isSource(path) || isStyle(path)) && isReallyBelow(path, this.paths.root)
      ? readHelpfulText(path, limits.tracedBytes.value)
      : undefined;
  }
}

/** The path of a source as reports have it. @param mapPath of the map that names it */
export function sourcePath(source: string, mapPath: string, paths: ShownPaths): string {
  const path = absolute(source, mapPath, paths.root);
  return path ? paths.of(path) : paths.mask(source);
}

function absolute(source: string, mapPath: string, root: string): string | undefined {
  if (!/^[a-z-]+:/i.test(source)) return resolve(dirname(mapPath), source);
  // webpack names its modules by a scheme of its own, relative to the folder that it was started in, some with a hash behind.
  const path = /^webpack:\/\/[^/]*\/([^?]*)/.exec(source)?.[1];
  const inProject = path && join(root, path);
  return inProject && statOf(inProject)?.isFile() ? inProject : undefined;
}

function isStyle(path: string): boolean {
  return /\.(css|s[ac]ss|less|styl)$/i.test(path);
}

/** The map of a script or style: inside it, at the address that it gives, or beside it. */
function findMap(path: string, root: string): { mapPath: string; text: string | undefined } | undefined {
  if (!/\.(js|mjs|cjs|css)$/.test(path)) return undefined;
  const address = sourceMapAddress(readHelpfulText(path, limits.tracedBytes.value) ?? '');
  const inline = address && inlineSourceMap(address);
  if (inline) return { mapPath: path, text: inline };
  const given = address && !/^[a-z]+:/i.test(address) ? resolve(dirname(path), decodeAddress(address)) : undefined;
  const mapPath = given && statOf(given)?.isFile() ? given : `${path}.map`;
  return isReallyBelow(mapPath, root) || (dirname(mapPath) === dirname(path) && isReallyBelow(mapPath, dirname(path)))
    ? { mapPath, text: readHelpfulText(mapPath, limits.tracedBytes.value) }
    : undefined;
}

function decodeAddress(address: string): string {
  try {
    return decodeURIComponent(address);
  } catch {
    return address;
  }
}
