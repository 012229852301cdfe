import { settingsOf } from './marks.js';
import type { Hit, Matcher, OnHit } from './matcher.js';

/** A hit of a mark. `needle` is the mark's index. */
export interface MarkHit extends Hit {
  kind: string;
}

/** Result of one pass over some bytes. Plain data, so that threads can exchange it. */
export interface Scan {
  bytes: number;
  /** By start, then by mark; a limited number per mark. Data: URIs are in {@link dataUris} instead. */
  hits: MarkHit[];
  /** Mark to the number of all its hits. */
  counts: Map<number, number>;
  /** Offsets at which the content of data: URIs starts, ascending. */
  dataUris: number[];
  /** True if all hits are data: URIs, and of kinds that many texts have. */
  isEmpty: boolean;
}

export const DATA_URI = 'data-uri';

/** A matcher reports overlapping hits of one mark in any order, so more are kept until all are known. */
const SURPLUS = 4;

export function emptyScan(): Scan {
  return { bytes: 0, hits: [], counts: new Map(), dataUris: [], isEmpty: true };
}

/** Collects a matcher's hits in a scan. */
export class ScanRecorder {
  scan = emptyScan();
  /** The chunk that is being matched: where it is, its length, and its offset in the input. */
  #window: Uint8Array = new Uint8Array(0);
  #length = 0;
  #offset = 0;
  /** See {@link feed}. */
  #shift = 0;
  #until = Number.POSITIVE_INFINITY;

  /** @param kinds the kind of each mark */
  constructor(readonly kinds: readonly string[]) {}

  /** Starts the next input. Reuses the scan of an input without hits. */
  restart(): void {
    if (this.scan.counts.size > 0) this.take();
    else this.scan.bytes = 0;
  }

  /** Returns the scan to a caller that stores it: the next input gets a new one. */
  take(): Scan {
    const { scan } = this;
    this.scan = emptyScan();
    return scan;
  }

  /**
   * Lets a matcher go over the bytes in its window.
   * @param length number of bytes @param offset of the first one in the input
   * @param shift added to the matcher's offsets; hits that start at or after `until` are dropped
   */
  feed(matcher: Matcher, length: number, offset: number, shift = 0, until = Number.POSITIVE_INFINITY): void {
    this.#window = matcher.window;
    this.#length = length;
    this.#offset = offset;
    this.#shift = shift;
    this.#until = until;
    matcher.feed(length, this.#onHit);
  }

  readonly #onHit: OnHit = (needle, start, end) => {
    if (this.#shift + start < this.#until) this.#record(needle, this.#shift + start, this.#shift + end);
  };

  #record(needle: number, start: number, end: number): void {
    const kind = this.kinds[needle] as string;
    const { most, accepts } = settingsOf(kind);
    const following = accepts && this.#window.subarray(end - this.#offset, this.#length);
    if (following && !accepts(following)) return;
    const { hits, counts, dataUris } = this.scan;
    const known = counts.get(needle) ?? 0;
    counts.set(needle, known + 1);
    if (kind === DATA_URI) {
      if (dataUris.length < most) dataUris.push(end);
    } else if (known < SURPLUS * most) hits.push({ needle, kind, start, end });
  }
}

/** Joins the scans of consecutive stretches of one input, in their order. */
export function joinScans(scans: readonly Scan[]): Scan {
  const counts = new Map<number, number>();
  for (const scan of scans)
    for (const [needle, count] of scan.counts) counts.set(needle, (counts.get(needle) ?? 0) + count);
  return settled({
    ...emptyScan(),
    bytes: scans.reduce((sum, { bytes }) => sum + bytes, 0),
    // There may be more of them than a call takes arguments.
    hits: scans.flatMap(({ hits }) => hits),
    counts,
    dataUris: scans.flatMap(({ dataUris }) => dataUris).slice(0, settingsOf(DATA_URI).most),
  });
}

/** Sorts the hits and drops surplus ones. The result is the same however the bytes arrived. */
export function settled(scan: Scan): Scan {
  if (scan.counts.size === 0) return scan;
  scan.hits.sort((a, b) => a.start - b.start || a.needle - b.needle);
  const kept = new Map<number, number>();
  scan.hits = scan.hits.filter(({ needle, kind }) => {
    const count = (kept.get(needle) ?? 0) + 1;
    kept.set(needle, count);
    return count <= settingsOf(kind).most;
  });
  scan.dataUris.sort((a, b) => a - b);
  scan.isEmpty = scan.hits.every(({ kind }) => settingsOf(kind).isCommon === true);
  return scan;
}
