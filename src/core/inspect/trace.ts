import type { Place } from '../findings/finding.js';
import { excerptOf } from '../text/frame.js';
import { LineMap } from '../text/positions.js';
import type { Artifact } from './artifact.js';
import type { Masker } from './masked-text.js';
import type { Described, DescribedRange } from './rule.js';
import { SourceMap, TooManyMappings } from './source-map.js';

/** A file with a source map. */
type Mapped = Pick<Artifact, 'sourceMap' | 'original'>;

/** Maps places in one artifact to source lines, through its source map. */
export class Tracer {
  #map: SourceMap | undefined;
  #location = '';
  #hasFailed = false;

  private constructor(
    readonly artifact: Mapped,
    readonly masker: Masker,
    readonly failed: (because: string) => void,
  ) {}

  /** @param failed called once if the map is unusable, with the reason */
  static async of(artifact: Mapped, masker: Masker, failed: (because: string) => void): Promise<Tracer> {
    const tracer = new Tracer(artifact, masker, failed);
    const related = await artifact.sourceMap();
    if (!related) return tracer;
    tracer.#location = related.location;
    tracer.#map = tracer.#try(() => new SourceMap(related.text, related.location));
    return tracer;
  }

  /** A map may contain anything, and no failure of it may lose the finding. */
  trace(place: Place, locate?: DescribedRange['locate']): Omit<Described, 'place'> | undefined {
    return this.#try(() => this.#trace(place, locate));
  }

  /**
   * How much of the artifact comes from each source.
   * @param text of the artifact
   * @returns source, as reports show it, to UTF-16 code units; empty without a map
   */
  sizes(text: string): ReadonlyMap<string, number> {
    const sizes = new Map<string, number>();
    for (const [source, size] of this.#try(() => this.#map?.sizes(text)) ?? []) {
      const { path } = this.artifact.original(source, this.#location);
      sizes.set(path, (sizes.get(path) ?? 0) + size);
    }
    return sizes;
  }

  #try<T>(step: () => T): T | undefined {
    if (this.#hasFailed) return undefined;
    try {
      return step();
    } catch (error) {
      this.#hasFailed = true;
      const why = error instanceof TooManyMappings ? error.message : 'is damaged';
      this.failed(`has a source map that ${why}, so findings in it are not traced to their source`);
      return undefined;
    }
  }

  #trace({ line = 1, column = 1 }: Place, locate: DescribedRange['locate']): Omit<Described, 'place'> | undefined {
    const traced = this.#map?.trace(line, column);
    if (!traced) return undefined;
    const original = this.artifact.original(traced.source, this.#location);
    const text = traced.content ?? original.text();
    const origin = { path: original.path, line: traced.line, column: traced.column };
    return text === undefined ? { origin } : this.#inLine(Buffer.from(text), origin, locate);
  }

  /** A map points at the expression; the value may be further on in its line. */
  #inLine(
    bytes: Uint8Array,
    { path, line, column }: NonNullable<Described['origin']>,
    locate: DescribedRange['locate'],
  ): Omit<Described, 'place'> {
    const lines = new LineMap(bytes);
    const lineStart = lines.startOf(line);
    const text = lines.text(line);
    const from = lineStart + Buffer.byteLength(text.slice(0, column - 1));
    const lineEnd = lineStart + Buffer.byteLength(text);
    const found = locate?.(bytes.subarray(from, lineEnd)) ?? { start: 0, end: 1 };
    const [start, end] = [from + found.start, from + found.end];
    const position = lines.at(start);
    const piece = this.masker.piece(bytes, lineStart, lineEnd, { start, end: Math.min(end, lineEnd) });
    const excerpt = piece && excerptOf(position.line, piece.text, piece.start + 1, piece.end - piece.start);
    return { origin: { path, line: position.line, column: position.column }, ...(excerpt && { excerpt }) };
  }
}
