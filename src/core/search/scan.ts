import { settingsOf } from './marks.js';
import type { Hit, Matcher, OnHit } from './matcher.js';

/** A hit of a mark. `needle` is the mark's index. */
export interface MarkHit extends Hit {
  kind: string;
}

/** What one pass over some bytes found. Plain data, so that threads can exchange it. */
export interface Scan {
  bytes: number;
  /** By start, then by mark; a limited number per mark. Data: URIs are in {@link dataUris} instead. */
  hits: MarkHit[];
  /** Mark to the number of all its hits. */
  counts: Map<number, number>;
  /** Offsets at which the content of data: URIs starts, ascending. */
  dataUris: number[];
  /** Whether all hits are data: URIs, and of kinds that many texts have. */
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
  readonly scan = emptyScan();
  /** The chunk that is being matched, and its offset. */
  #chunk: Uint8Array = new Uint8Array(0);
  #chunkOffset = 0;

  /** @param kinds the kind of each mark */
  constructor(readonly kinds: readonly string[]) {}

  /**
   * Lets a matcher go over the bytes in its window.
   * @param length number of bytes @param offset of the first one in the input
   * @param shift added to the matcher's offsets; hits that start at or after `until` are dropped
   */
  feed(matcher: Matcher, length: number, offset: number, shift = 0, until = Number.POSITIVE_INFINITY): void {
    this.#chunk = matcher.window.subarray(0, length);
    this.#chunkOffset = offset;
    matcher.feed(length, (needle, start, end) => {
      if (shift + start < until) this.record(needle, shift + start, shift + end);
    });
  }

  readonly record: OnHit = (needle, start, end) => {
    const kind = this.kinds[needle] as string;
    const { most, accepts } = settingsOf(kind);
    const following = accepts && this.#chunk.subarray(end - this.#chunkOffset);
    if (following && !accepts(following)) return;
    const { hits, counts, dataUris } = this.scan;
    const known = counts.get(needle) ?? 0;
    counts.set(needle, known + 1);
    if (kind === DATA_URI) {
      if (dataUris.length < most) dataUris.push(end);
    } else if (known < SURPLUS * most) hits.push({ needle, kind, start, end });
  };
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
