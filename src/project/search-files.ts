import type { Excerpt, Place } from '../core/findings/finding.js';
import { compressionOf } from '../core/inspect/compressed.js';
import { isPiece, MOST_PLACES, type ValueHit, valueHits, wholeForms } from '../core/inspect/hits.js';
import { Masker } from '../core/inspect/masked-text.js';
import type { Owner, SearchPlan } from '../core/inspect/plan.js';
import type { LocatedHit } from '../core/inspect/rules.js';
import type { Needle } from '../core/needles/index.js';
import { Locator } from '../core/search/locate.js';
import type { Hit, Matcher } from '../core/search/matcher.js';
import { sampledGrams } from '../core/search/sampled-grams.js';
import { excerptOf } from '../core/text/frame.js';
import type { Position } from '../core/text/positions.js';
import { readRange, streamFile } from '../host/files.js';
import type { ShownPaths } from './shown-paths.js';
import { Tracer } from './trace.js';

const EXCERPT_BYTES = 60;

/** What a search of one file gave. */
export interface FileHits {
  path: string;
  bytes: number;
  /** Set where the bytes are those of a compressed container, which this version does not open. */
  compressed?: string;
  /** What must not be there, with its place in lines and columns. */
  hits: LocatedHit[];
  /** Public values of the stage, which may be there: only their offsets are worth the time. */
  present: ValueHit[];
  /** Occurrences of a value beyond the first {@link MOST_PLACES}. */
  more: { owner: Owner; count: number }[];
}

/** Searches files for the needles of a plan, in memory that does not grow with them. */
export class FileSearcher {
  readonly #matcher: Matcher;
  readonly #masker: Masker;
  readonly #buffer = new Uint8Array(256 * 1024);

  constructor(
    readonly plan: SearchPlan,
    readonly paths: ShownPaths,
  ) {
    this.#matcher = sampledGrams(plan.needles.map(({ bytes }) => bytes));
    this.#masker = new Masker(plan.masked);
  }

  /** @throws the file system's error where the file cannot be read */
  search(path: string): FileHits {
    const hits: Hit[] = [];
    const perNeedle = new Map<number, number>();
    let bytes = 0;
    let head: Uint8Array = new Uint8Array(0);
    this.#matcher.start();
    streamFile(path, this.#matcher.window, (chunk) => {
      if (bytes === 0) head = chunk.slice(0, 8);
      bytes += chunk.length;
      this.#matcher.feed(chunk.length, (needle, start, end) => {
        const known = perNeedle.get(needle) ?? 0;
        perNeedle.set(needle, known + 1);
        if (known < MOST_PLACES) hits.push({ needle, start, end });
      });
      return false;
    });
    const { needles } = this.plan;
    const found = valueHits(
      wholeForms(hits, needles, (from, to) => readRange(path, from, to)),
      needles,
    );
    const isPresent = ({ owner }: ValueHit) => owner.role === 'present';
    const compressed = compressionOf(head, path);
    return {
      path,
      bytes,
      ...(compressed && { compressed }),
      hits: this.#located(
        path,
        found.filter((hit) => !isPresent(hit)),
      ),
      present: found.filter(isPresent),
      more: this.#more(perNeedle),
    };
  }

  /** The place of a stretch of a file, and how it looks. */
  place(path: string, offset: number, length: number): { place: Place; excerpt?: Excerpt } {
    const [position] = this.#positions(path, [offset]);
    const excerpt = position && this.#excerpt(path, position.line, offset, offset + length);
    return { place: { path: this.paths.of(path), inside: [], ...position, length }, ...(excerpt && { excerpt }) };
  }

  #more(perNeedle: ReadonlyMap<number, number>): FileHits['more'] {
    // Of a value, the forms and pieces of it that overlap are one occurrence.
    const all = [...perNeedle].flatMap(([needle, number]) => {
      const { owners, unbroken } = this.plan.needles[needle] as Needle<Owner>;
      if (unbroken !== undefined) return [];
      const told = owners.filter(({ role }) => role !== 'present' && number > MOST_PLACES);
      return told.map((owner) => ({ owner, count: number - MOST_PLACES }));
    });
    const whole = all.filter((one) => !isPiece(one));
    const most = new Map<Owner, { owner: Owner; count: number }>();
    for (const { owner, count } of whole.length > 0 ? whole : all)
      if (count > (most.get(owner)?.count ?? 0)) most.set(owner, { owner, count });
    return [...most.values()];
  }

  #located(path: string, hits: readonly ValueHit[]): LocatedHit[] {
    if (hits.length === 0) return [];
    const positions = this.#positions(
      path,
      hits.map(({ start }) => start),
    );
    const tracer = new Tracer(path, this.paths, this.plan, this.#masker);
    return hits.map(({ owner, encoding, start, end }, index) => {
      const place = {
        path: this.paths.of(path),
        inside: [],
        ...(positions[index] as Position),
        length: end - start,
      };
      const traced = tracer.trace(owner, place);
      const excerpt = traced?.excerpt ?? this.#excerpt(path, place.line, start, end);
      return { owner, encoding, place, ...(traced && { origin: traced.origin }), ...(excerpt && { excerpt }) };
    });
  }

  #positions(path: string, offsets: readonly number[]): Position[] {
    const locator = new Locator(offsets);
    streamFile(path, this.#buffer, (chunk) => {
      locator.feed(chunk);
      return locator.done;
    });
    return locator.positions;
  }

  /** The surroundings of a hit, masked; nothing where they are not text. */
  #excerpt(path: string, line: number, start: number, end: number): Excerpt | undefined {
    const { margin } = this.#masker;
    const from = Math.max(0, start - EXCERPT_BYTES - margin);
    const bytes = readRange(path, from, end + EXCERPT_BYTES + margin);
    const lineStart = bytes.subarray(0, start - from).lastIndexOf(0x0a) + 1;
    const feed = bytes.indexOf(0x0a, end - from);
    const pieceStart = Math.max(lineStart, start - from - EXCERPT_BYTES, 0);
    const pieceEnd = Math.min(feed < 0 ? bytes.length : feed, end - from + EXCERPT_BYTES);
    const piece = this.#masker.piece(bytes, pieceStart, pieceEnd, { start: start - from, end: end - from });
    return piece && excerptOf(line, piece.text, piece.start + 1, piece.end - piece.start);
  }
}
