import { type Mark, RUN, WINDOW } from '../search/marks.js';
import { findAll } from '../search/matcher.js';
import { Retained } from '../search/retained.js';
import { type MarkHit, type Scan, ScanRecorder, settled } from '../search/scan.js';
import type { Window } from '../search/stretch.js';
import { Interrupted, type Limits } from '../unpack/limits.js';
import type { ArtifactSource } from './artifact.js';
import type { Content } from './content.js';
import { EXCERPT_BYTES } from './excerpt.js';
import { isPartial, type ValueHit, valueHits, wholeForms } from './hits.js';
import type { MarkTable } from './mark-table.js';
import type { Masker } from './masked-text.js';
import type { SearchPlan } from './plan.js';
import { recordedHits } from './recorded.js';
import { ANCHOR, VALUE } from './rules/known-values.js';
import { TOKEN, tokenWindow } from './rules/token-shape.js';

/** The scan of a stream, with the bytes around its hits. */
export interface StreamScan extends Scan {
  retained: Retained;
}

/** Limits of a scan. */
export interface ScanOptions {
  limits: Limits;
  /** Asked after each chunk, with its size; true stops the search. */
  isStopped(bytes: number): Promise<boolean>;
  /** Milliseconds of a clock. */
  now(): number;
}

function isOfValue({ kind }: Pick<Mark, 'kind'>): boolean {
  return kind === VALUE || kind === ANCHOR;
}

/** A past value in a current one, or a part of it, is the current one; a part of a current one in a past one is the past one. */
function withRecorded(known: readonly ValueHit[], past: readonly ValueHit[]): ValueHit[] {
  const isIn = (hit: ValueHit, others: readonly ValueHit[]) =>
    others.some((one) => one.start <= hit.start && hit.end <= one.end);
  const whole = past.filter((hit) => !isPartial(hit));
  const current = known.filter((hit) => !isPartial(hit) || !isIn(hit, whole));
  return [...current, ...past.filter((hit) => !isIn(hit, current))].sort((a, b) => a.start - b.start);
}

/** Bytes on each side of a hit in an embedded file that are kept for the rules. */
const RULE_REACH = 16 * 1024;

/** Feeds sources and streams to the matcher, in memory that does not grow with their size. */
export class Scanner {
  /** Bytes of the last read of a scan, which are still in the matcher's window. */
  #lastRead = 0;

  constructor(
    readonly plan: SearchPlan,
    readonly table: MarkTable,
    readonly masker: Masker,
    readonly options: ScanOptions,
  ) {}

  /** Values among the hits of a scan. @param read bytes of the scanned input */
  valuesOf({ hits }: Pick<Content, 'hits'>, read: (from: number, to: number) => Uint8Array): ValueHit[] {
    const { needles, recorded } = this.plan;
    const values = hits.filter(isOfValue);
    const known = valueHits(wholeForms(values, needles, read), needles);
    if (!recorded) return known;
    const first = this.table.kinds.length - recorded.owners.length;
    return withRecorded(known, recordedHits(recorded, hits, first, read));
  }

  /** Values in bytes in memory. */
  valuesIn(bytes: Uint8Array): ValueHit[] {
    const { matcher, kinds } = this.table;
    const hits = findAll(matcher, bytes).map((hit) => ({ ...hit, kind: kinds[hit.needle] as string }));
    return this.valuesOf({ hits }, (from, to) => bytes.subarray(from, to));
  }

  /** Reads straight into the matcher's memory, up to the time limit of one artifact. */
  async source(source: ArtifactSource): Promise<Scan> {
    const recorder = this.#start();
    const { matcher } = this.table;
    const until = this.options.now() + this.options.limits.fileSeconds * 1000;
    for (;;) {
      const length = source.readInto(matcher.window, recorder.scan.bytes);
      if (length > 0) {
        this.#lastRead = length;
        await this.#feed(recorder, length);
      }
      const isAtEnd = length === 0 || (length < matcher.window.length && recorder.scan.bytes >= source.size);
      if (isAtEnd || this.options.now() > until) return settled(recorder.scan);
    }
  }

  /** The bytes of the last read, if they are all of a source: a small one is still in the matcher's memory. */
  inMemory({ bytes }: Scan, { size }: ArtifactSource): Uint8Array | undefined {
    const isAll = bytes === size && bytes === this.#lastRead;
    return isAll ? this.table.matcher.window.subarray(0, bytes) : undefined;
  }

  /** The byte range around a hit of an embedded file that the rules read. */
  windowOf({ needle, kind, start, end }: MarkHit): Window {
    if (kind === RUN || kind === TOKEN) return tokenWindow({ kind, start, end });
    if (kind === WINDOW) return { from: start - this.masker.margin, to: end + this.masker.margin };
    if (kind !== VALUE && kind !== ANCHOR) return { from: start - RULE_REACH, to: end + RULE_REACH };
    const { unbroken, anchor } = this.plan.needles.at(needle) ?? {};
    const around = Math.max(EXCERPT_BYTES + this.masker.margin, 2 * (unbroken?.length ?? 0), anchor?.value.reach ?? 0);
    return { from: start - around, to: end + around };
  }

  /** Scans bytes that are streamed. */
  async chunks(chunks: AsyncIterable<Uint8Array>): Promise<StreamScan> {
    const recorder = this.#start();
    const retained = new Retained();
    const { window } = this.table.matcher;
    for await (const chunk of chunks) {
      const before = recorder.scan.hits.length;
      for (let at = 0; at < chunk.length; at += window.length) {
        const piece = chunk.subarray(at, at + window.length);
        window.set(piece);
        await this.#feed(recorder, piece.length);
      }
      retained.add(
        chunk,
        recorder.scan.hits.slice(before).map((hit) => this.windowOf(hit)),
      );
    }
    return { ...settled(recorder.scan), retained };
  }

  #start(): ScanRecorder {
    this.table.matcher.start();
    return new ScanRecorder(this.table.kinds);
  }

  async #feed(recorder: ScanRecorder, length: number): Promise<void> {
    if (await this.options.isStopped(length)) throw new Interrupted();
    recorder.feed(this.table.matcher, length, recorder.scan.bytes);
    recorder.scan.bytes += length;
  }
}
