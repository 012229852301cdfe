import { countOf, stringAt } from '../needles/byte-strings.js';
import { rarityOf } from '../needles/rarity.js';
import { gramAt } from './gram.js';
import { type Matcher, measured, type NeedleBytes, type OnHit } from './matcher.js';
import { LONGEST_OPEN_RUN, type MarkTable, markTable, type Runs, scanRuns, scanUserInfos } from './runs.js';
import { type ByteWindows, LONGEST_STRETCH } from './windows/byte-windows.js';
import { WindowTable } from './windows/find.js';

const GRAM = 4;
const LARGEST_STRIDE = 8;
const FILTER_BITS = 18;
const DEFAULT_CHUNK = 256 * 1024;

/** A four-byte window of a needle. Its position in the input gives the position that the needle would have. */
interface Window {
  needle: number;
  /** Offset of the window in its needle. */
  at: number;
}

/**
 * Probes every S-th offset only. For each needle and each residue class modulo S, the table has one window of the needle, so
 * that every occurrence is met exactly once, at any offset. S follows from the shortest needle:
 * a needle of n bytes has windows for all classes while S <= n - 3.
 *
 * A byte filter rejects almost every offset; the others are looked up in a map, and each candidate is compared byte by byte.
 */
export function sampledGrams(
  needles: NeedleBytes,
  chunkSize = DEFAULT_CHUNK,
  runs?: Runs,
  windows?: ByteWindows,
): Matcher {
  return new SampledGrams(needles, chunkSize, runs, windows);
}

class SampledGrams implements Matcher {
  readonly #needles: readonly Uint8Array[];
  readonly #stride: number;
  readonly #filter = new Uint8Array(1 << FILTER_BITS);
  readonly #windows = new Map<number, Window[]>();
  /** How many bytes of the last chunk precede the window, so that hits across the border are found. */
  readonly #carry: number;
  readonly #memory: Uint8Array;
  readonly window: Uint8Array;
  #carried = 0;
  #consumed = 0;

  readonly #markTable: MarkTable | undefined;
  /** Number of consumed bytes at the end that may be the beginning of a run. */
  #openRun = 0;
  readonly #byteWindows: WindowTable | undefined;

  constructor(needles: NeedleBytes, chunkSize: number, runs: Runs | undefined, windows: ByteWindows | undefined) {
    const { strings, shortest, longest } = measured(needles, GRAM);
    this.#needles = Array.from({ length: countOf(strings) }, (_, needle) => stringAt(strings, needle));
    this.#stride = Math.min(LARGEST_STRIDE, shortest - GRAM + 1);
    this.#carry = Math.max(0, longest - 1, runs ? LONGEST_OPEN_RUN : 0, windows ? LONGEST_STRETCH : 0);
    this.#byteWindows = windows && new WindowTable(windows);
    this.#markTable = runs && markTable(runs.marks);
    this.#memory = new Uint8Array(this.#carry + chunkSize);
    this.window = this.#memory.subarray(this.#carry);
    this.#needles.forEach((bytes, needle) => {
      for (let residue = 0; residue < this.#stride; residue++) this.#addWindow(bytes, needle, residue);
    });
  }

  start(): void {
    this.#carried = 0;
    this.#consumed = 0;
    this.#openRun = 0;
  }

  feed(length: number, onHit: OnHit): void {
    const from = this.#carry - this.#carried;
    const to = this.#carry + length;
    this.#scan(from, to, onHit);
    this.#reportRuns(to, onHit);
    if (this.#byteWindows) this.#reportWindows(this.#byteWindows, from, to, onHit);
    this.#consumed += length;
    this.#carried = Math.min(this.#carry, this.#carried + length);
    this.#memory.copyWithin(this.#carry - this.#carried, to - this.#carried, to);
  }

  #reportRuns(to: number, onHit: OnHit): void {
    const table = this.#markTable;
    if (!table) return;
    const shift = this.#consumed - this.#carry;
    const stretch = { from: this.#carry - this.#openRun, to };
    const at = scanRuns(this.#memory, stretch, table, (start, end) =>
      onHit(this.#needles.length, shift + start, shift + end),
    );
    this.#openRun = Math.min(to - at, this.#carry);
    scanUserInfos(this.#memory, { from: this.#carry - this.#carried, at: this.#carry, to }, (start, end) =>
      onHit(this.#needles.length, shift + start, shift + end),
    );
  }

  #reportWindows(windows: WindowTable, from: number, to: number, onHit: OnHit): void {
    const start = Math.max(from, this.#carry - LONGEST_STRETCH);
    const shift = this.#consumed - this.#carry + start;
    for (const { owner, at, width, text } of windows.find(this.#memory.slice(start, to)))
      onHit(
        this.#needles.length + 1 + owner,
        shift + (text.starts[at] as number),
        shift + (text.ends[at + width - 1] as number),
      );
  }

  #scan(from: number, to: number, onHit: OnHit): void {
    const memory = this.#memory;
    const filter = this.#filter;
    const stride = this.#stride;
    const last = to - GRAM;
    for (let at = from; at <= last; at += stride) {
      const gram =
        (memory[at] as number) |
        ((memory[at + 1] as number) << 8) |
        ((memory[at + 2] as number) << 16) |
        ((memory[at + 3] as number) << 24);
      if (filter[slotOf(gram)] !== 0) this.#verify(gram, at, from, to, onHit);
    }
  }

  #verify(gram: number, at: number, from: number, to: number, onHit: OnHit): void {
    for (const window of this.#windows.get(gram) ?? []) {
      const bytes = this.#needles[window.needle] as Uint8Array;
      const start = at - window.at;
      const end = start + bytes.length;
      if (start < from || end > to || end <= this.#carry || !this.#equals(bytes, start)) continue;
      const offset = this.#consumed - this.#carry + start;
      onHit(window.needle, offset, offset + bytes.length);
    }
  }

  #equals(bytes: Uint8Array, start: number): boolean {
    for (let i = 0; i < bytes.length; i++) if (this.#memory[start + i] !== bytes[i]) return false;
    return true;
  }

  #addWindow(bytes: Uint8Array, needle: number, residue: number): void {
    let at = residue;
    for (let other = residue; other + GRAM <= bytes.length; other += this.#stride) {
      if (rarityOf(bytes, other) > rarityOf(bytes, at)) at = other;
    }
    const gram = gramAt(bytes, at);
    this.#filter[slotOf(gram)] = 1;
    const windows = this.#windows.get(gram);
    if (windows) windows.push({ needle, at });
    else this.#windows.set(gram, [{ needle, at }]);
  }
}

/** Multiplicative hashing (Knuth, The Art of Computer Programming, vol. 3, 6.4). */
function slotOf(gram: number): number {
  return Math.imul(gram, 0x9e3779b1) >>> (32 - FILTER_BITS);
}
