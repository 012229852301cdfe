import type { ByteWindows } from '../search/windows/byte-windows.js';
import type { DecodedText } from '../search/windows/decoded.js';
import { type FoundWindow, WindowTable } from '../search/windows/find.js';
import { joinedRanges } from '../text/ranges.js';
import { valueFingerprint } from './entry.js';
import { byteWindows, type HashedWindows } from './hashes.js';
import type { PastValue } from './history.js';

/** A recorded value, or a part of it, in a text. Offsets are in bytes. */
export interface Recognised {
  value: PastValue;
  start: number;
  end: number;
  /** From the outside inwards. */
  encoding: readonly string[];
  /** Bytes that were recognised, for a part of the value. */
  found?: number;
}

/** Recognises recorded values by their windows, and confirms whole values by their fingerprints. */
export class HistorySearch {
  /** The values that have windows; the owners of {@link windows} are indices in them. */
  readonly values: readonly PastValue[];
  readonly windows: ByteWindows | undefined;
  #table: WindowTable | undefined;

  constructor(values: readonly PastValue[]) {
    const sections = [...new Set(values.map(({ keys }) => keys))].map((keys) => ({
      keys,
      values: values.filter((one) => one.keys === keys && one.entry.windows !== undefined),
    }));
    this.values = sections.flatMap((section) => section.values);
    this.windows = byteWindows(
      sections
        .filter((section) => section.values.length > 0)
        .map((section) => ({
          key: section.keys.windows,
          values: section.values.map(({ entry }) => entry.windows as HashedWindows),
        })),
    );
  }

  /** Bytes that may be needed on both sides of a stretch. */
  get reach(): number {
    return this.values.reduce((most, value) => Math.max(most, reachOf(value)), 0);
  }

  /**
   * The values around a stretch of a text that has a window of one of them.
   * @param owner the value, by its index @param read bytes of the text
   */
  around(owner: number, start: number, end: number, read: (from: number, to: number) => Uint8Array): Recognised[] {
    const reach = reachOf(this.values[owner] as PastValue);
    const from = Math.max(0, start - reach);
    const found = this.in(read(from, end + reach), owner);
    return found.map((one) => ({ ...one, start: from + one.start, end: from + one.end }));
  }

  /** Recorded values in a short text. @param only the index of the value to find; all if absent */
  in(bytes: Uint8Array, only?: number): Recognised[] {
    const whole: Recognised[] = [];
    const parts = new Map<DecodedText, Map<PastValue, FoundWindow[]>>();
    for (const window of this.#found(bytes)) {
      if (only !== undefined && window.owner !== only) continue;
      const value = this.values[window.owner] as PastValue;
      const found = wholeValue(value, window);
      if (found) whole.push(found);
      else {
        const ofText = parts.get(window.text) ?? new Map<PastValue, FoundWindow[]>();
        parts.set(window.text, ofText.set(value, [...(ofText.get(value) ?? []), window]));
      }
    }
    const partial = [...parts.values()].flatMap((ofText) =>
      [...ofText].flatMap(([one, windows]) => partOf(one, windows)),
    );
    return withoutOverlaps([...whole.sort(bySteps), ...partial.sort(bySteps)], (one) => one.value);
  }

  /** The table takes longer than a search without hits, which needs none. */
  #found(bytes: Uint8Array): Iterable<FoundWindow> {
    if (!this.windows) return [];
    this.#table ??= new WindowTable(this.windows);
    return this.#table.find(bytes);
  }
}

/** A character may be escaped in so many bytes. */
const WIDEST = 12;
const MOST_REACH = 256 * 1024;

function reachOf({ entry }: PastValue): number {
  return Math.min(WIDEST * entry.length + 64, MOST_REACH);
}

/** The value around one of its windows, if all of it is in the decoded text. */
function wholeValue(value: PastValue, { at, text }: FoundWindow): Recognised | undefined {
  const { windows, length, variable, fingerprint } = value.entry;
  for (const { at: offset } of windows?.windows ?? []) {
    const [start, end] = [at - offset, at - offset + length];
    if (start < 0 || end > text.bytes.length) continue;
    const candidate = text.bytes.subarray(start, end);
    if (valueFingerprint(value.keys, variable, candidate) !== fingerprint) continue;
    return {
      value,
      start: text.starts[start] as number,
      end: text.ends[end - 1] as number,
      encoding: named(text.encoding),
    };
  }
  return undefined;
}

/** The longest joined stretch of the windows that were found in one decoded text. */
function partOf(value: PastValue, windows: readonly FoundWindow[]): Recognised[] {
  const { text } = windows[0] as FoundWindow;
  const ranges = joinedRanges(
    windows.map(({ at, width }) => ({ start: at, end: at + width })),
    true,
  );
  return ranges.map(({ start, end }) => ({
    value,
    start: text.starts[start] as number,
    end: text.ends[end - 1] as number,
    encoding: named(text.encoding),
    found: end - start,
  }));
}

function named(encoding: readonly string[]): readonly string[] {
  return encoding.length > 0 ? encoding : ['plain'];
}

/** Fewer decoding steps explain a text better. */
function bySteps(a: Recognised, b: Recognised): number {
  return a.encoding.length - b.encoding.length || a.start - b.start;
}

/** Stretches of one owner that overlap are one: the earlier in the list counts. */
export function withoutOverlaps<T extends { start: number; end: number }>(
  all: readonly T[],
  ownerOf: (one: T) => unknown,
): T[] {
  const kept: T[] = [];
  for (const one of all)
    if (!kept.some((other) => ownerOf(other) === ownerOf(one) && one.start < other.end && other.start < one.end))
      kept.push(one);
  return kept;
}
