import { decodedMappings, FlattenMap, originalPositionFor, type TraceMap } from '@jridgewell/trace-mapping';
import { limits } from '../limits/index.js';
import { byteSize } from '../text/display.js';

/** The source of a place in an artifact, according to a map. */
export interface Traced {
  /** The address of the source, resolved against that of the map. */
  source: string;
  line: number;
  column: number;
  /** The text of the source, if the map contains it. */
  content?: string;
}

export class TooManyMappings extends Error {
  constructor() {
    super(`has more than ${byteSize(limits.mappings.value)} of mappings`);
  }
}

function mappingsIn(map: unknown): number {
  const { mappings, sections } = (map ?? {}) as { mappings?: unknown; sections?: unknown };
  const own = typeof mappings === 'string' ? mappings.length : 0;
  const inner = Array.isArray(sections) ? (sections as { map?: unknown }[]) : [];
  return inner.reduce((sum, one) => sum + mappingsIn(one?.map), own);
}

/** A source map (ECMA-426), with sections too, read once and asked often. */
export class SourceMap {
  readonly #map: TraceMap;

  /**
   * @param text the map's JSON @param address the map's own path; relative sources are resolved against it
   * @throws if the text is not a source map
   */
  constructor(text: string, address: string) {
    const map: unknown = JSON.parse(text.replace(/^\)\]\}'[^\n]*\n/, ''));
    if (mappingsIn(map) > limits.mappings.value) throw new TooManyMappings();
    this.#map = new FlattenMap(map as ConstructorParameters<typeof FlattenMap>[0], address);
  }

  /** @param line from 1 @param column from 1, UTF-16 units */
  trace(line: number, column: number): Traced | undefined {
    const {
      source,
      line: originalLine,
      column: originalColumn,
    } = originalPositionFor(this.#map, { line, column: column - 1 });
    if (source === null) return undefined;
    const content = this.#map.sourcesContent?.[this.#map.resolvedSources.indexOf(source)];
    return { source, line: originalLine, column: originalColumn + 1, ...(content && { content }) };
  }

  /**
   * How much of the generated text comes from each source.
   * @param text the generated text
   * @returns source, as {@link trace} names it, to UTF-16 code units; text without a source is not counted
   */
  sizes(text: string): Map<string, number> {
    const sizes = new Map<string, number>();
    const lines = text.split('\n');
    for (const [index, segments] of decodedMappings(this.#map).entries()) {
      const lineLength = lines[index]?.length ?? 0;
      for (const [at, [column, source]] of segments.entries()) {
        const name = source === undefined ? undefined : this.#map.resolvedSources[source];
        const end = segments[at + 1]?.[0] ?? lineLength;
        if (name) sizes.set(name, (sizes.get(name) ?? 0) + Math.max(0, end - column));
      }
    }
    return sizes;
  }
}

/**
 * The address of an artifact's map, as its last comment gives it (ECMA-426, 11.1.2). May be a `data:` URI. A comment in the text of a
 * string, as code for `eval` is, gives the address of that code's map.
 */
export function sourceMapAddress(text: string): string | undefined {
  const at = Math.max(text.lastIndexOf('//# sourceMappingURL='), text.lastIndexOf('/*# sourceMappingURL='));
  if (at < 0 || !/^$|[\s;})]$/.test(text.slice(Math.max(0, at - 1), at))) return undefined;
  const start = at + '//# sourceMappingURL='.length;
  return /^[^\s'"*]+/.exec(text.slice(start))?.[0];
}

/** The text of a `data:application/json` URI (RFC 2397), or undefined for any other address. */
export function inlineSourceMap(address: string): string | undefined {
  const match = /^data:application\/json[^,]*?(;base64)?,/.exec(address);
  if (!match) return undefined;
  const body = address.slice(match[0].length);
  if (match[1]) return Buffer.from(body, 'base64').toString('utf8');
  try {
    return decodeURIComponent(body);
  } catch {
    return undefined;
  }
}
