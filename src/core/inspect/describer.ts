import { scriptLanguage } from '../files/languages.js';
import { placeBetween } from '../findings/place.js';
import { limits } from '../limits/index.js';
import { Locator } from '../search/locate.js';
import type { Position } from '../text/positions.js';
import type { Artifact } from './artifact.js';
import type { Content } from './content.js';
import { excerptAround } from './excerpt.js';
import type { Masker } from './masked-text.js';
import type { Described, DescribedRange } from './rule.js';
import { Tracer } from './trace.js';

/** Finds places, sources and excerpts of hits in one artifact. */
export class Describer {
  #tracer: Promise<Tracer> | undefined;

  /**
   * @param shownNames names of embedded files, as reports show them
   * @param parsed bytes of scripts that were parsed for names, in all artifacts together
   * @param unread called if the source map of the artifact cannot be read
   */
  constructor(
    readonly artifact: Artifact,
    readonly masker: Masker,
    readonly shownNames: (inside: readonly string[]) => string[],
    readonly parsed: { bytes: number },
    readonly unread: (because: string) => void,
  ) {}

  /** Places, origins and excerpts of byte ranges of one content, in the order given. */
  async ranges(content: Content, ranges: readonly DescribedRange[]): Promise<Described[]> {
    if (ranges.length === 0) return [];
    const offsets = [...new Set(ranges.flatMap(({ start, end }) => [start, end]))].sort((a, b) => a - b);
    const found = await content.positions(offsets);
    const positions = new Map(offsets.map((offset, index) => [offset, found[index] as Position]));
    const isTraced = ranges.some(({ isBrief }) => !isBrief);
    const tracer = isTraced ? await this.#tracerOf(content) : undefined;
    const read = (await content.readAround?.(ranges)) ?? content.read;
    const { masker } = this;
    const all = ranges.map(({ start, end, isBrief = false, locate }) => {
      const [first, last] = [positions.get(start) as Position, positions.get(end) as Position];
      const place = placeBetween(content.where, first, last);
      const traced = (isBrief ? undefined : tracer?.trace(place, locate)) ?? originIn(content, first);
      const excerpt = traced.excerpt ?? excerptAround(read, masker, first.line, { start, end });
      return { described: { place, ...traced, ...(excerpt && { excerpt }) }, first, isBrief };
    });
    const isUntraced = ({ described: { origin }, isBrief }: (typeof all)[number]) => !origin && !isBrief;
    if (!all.some(isUntraced)) return all.map(({ described }) => described);
    const namesAround = await this.#namesAround(content);
    return all.map((one) => {
      const names = isUntraced(one) ? namesAround(one.first).map((name) => masker.text(name)) : [];
      return { ...one.described, ...(names.length > 0 && { within: names }) };
    });
  }

  /** A map in a container may have any origin: no file of the project is opened because of it. */
  async #tracerOf({ where, sourceMap, size }: Content): Promise<Tracer | undefined> {
    if (where.inside.length === 0) return this.trace();
    if (!sourceMap || size > limits.scriptBytes.value) return undefined;
    const original = (reference: string) => ({
      path: this.shownNames([reference.replace(/^[a-z-]+:\/\/[^/]*\//i, '')])[0] ?? '',
      text: () => undefined,
    });
    return Tracer.of({ sourceMap, original }, this.masker, () => undefined);
  }

  /** The source map of the artifact itself. */
  trace(): Promise<Tracer> {
    const failed = (because: string) => this.unread(because);
    this.#tracer ??= Tracer.of(this.artifact, this.masker, failed);
    return this.#tracer;
  }

  /** Names around places of a script. The parser is loaded when it is needed, and many large scripts are not all parsed. */
  async #namesAround({ fileName, size, text }: Content): Promise<(at: Position) => string[]> {
    const language = scriptLanguage(fileName);
    if (!language || size > limits.scriptBytes.value || this.parsed.bytes > limits.parsedBytes.value) return () => [];
    this.parsed.bytes += size;
    const { enclosingNames } = await import('./enclosing.js');
    return enclosingNames(await text(), language);
  }
}

/** Describes a byte range of an artifact, without its source map. */
export function describeRange(artifact: Artifact, masker: Masker, offset: number, length: number): Described {
  const source = artifact.open();
  try {
    const read = (from: number, to: number) => source.read(from, to - from);
    const [start, end] = positionsIn(source.chunks() as Iterable<Uint8Array>, [offset, offset + length]);
    if (!start || !end) return { place: { path: artifact.name, inside: [] } };
    const excerpt = excerptAround(read, masker, start.line, { start: offset, end: offset + length });
    return { place: placeBetween({ path: artifact.name }, start, end), ...(excerpt && { excerpt }) };
  } finally {
    source.close();
  }
}

/** A place in a source that a map embeds is a place in the original file. */
function originIn({ original }: Content, { line, column }: Position): Omit<Described, 'place'> {
  return original === undefined ? {} : { origin: { path: original, line, column } };
}

/** Lines and columns of byte offsets, read up to the last of them. */
export function positionsIn(chunks: Iterable<Uint8Array>, offsets: readonly number[]): Position[] {
  const locator = new Locator(offsets);
  for (const chunk of chunks) {
    locator.feed(chunk);
    if (locator.done) break;
  }
  return locator.positions;
}
