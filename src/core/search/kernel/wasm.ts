import { type ByteStrings, countOf } from '../../needles/byte-strings.js';
import { rarityTable } from '../../needles/rarity.js';
import { type Matcher, measured, type NeedleBytes, type OnHit } from '../matcher.js';
import { kindOfByte, LONGEST_OPEN_RUN, MARK_SLOTS, markTable, type Runs } from '../runs.js';
import type { ByteWindows } from '../windows/byte-windows.js';
import { LONGEST_STRETCH } from '../windows/byte-windows.js';
import { kernel } from './module.js';
import { WasmWindows, type WindowsKernel, windowsLayout } from './wasm-windows.js';

const DEFAULT_CHUNK = 256 * 1024;
const PAGE = 64 * 1024;

/** Offsets and sizes of the tables in assembly/index.ts. */
const [FILTER, FILTER_BYTES, BITS_BYTES] = [0x1_0000, 1 << 18, 1 << 17];
const [ENTRY, WINDOW, HIT] = [12, 12, 8];
const FIXED = FILTER + FILTER_BYTES + BITS_BYTES;
const RARITY = FIXED;
const LAID_OUT_FROM = RARITY + rarityTable.length;

/** More hits than this in a row end a call of the kernel, and it goes on where it was. */
const HITS = 8192;
const GRAM = 4;
/** The kernel reads so much after the text. */
const BLOCK = 64;

interface Kernel extends WindowsKernel {
  place(
    needles: number,
    offsets: number,
    table: number,
    mask: number,
    windows: number,
    lists: number,
    hits: number,
    cap: number,
  ): void;
  build(count: number, stride: number): void;
  found(): number;
  scan8(at: number, from: number, to: number, reported: number): number;
  scan4(at: number, from: number, to: number, reported: number): number;
  scan2(at: number, from: number, to: number, reported: number): number;
  placeRuns(hits: number, cap: number, kinds: number, marks: number, grams: number): void;
  runs(at: number, to: number): number;
  userInfos(at: number, from: number, to: number): number;
  foundRuns(): number;
}

/** Members of the host's WebAssembly that Adder uses; the types of Node.js have only its name. */
interface WasmHost {
  Memory: new (size: { initial: number }) => { buffer: ArrayBuffer };
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: object };
}

/** Compiled once for all matchers. */
let compiled: object | undefined;

/**
 * The matcher in WebAssembly. It probes every S-th offset of the text; S depends on the shortest needle: at most 8 for 10 bytes and more,
 * 4 for 6, 2 for 4. Each occurrence has a window of its needle at exactly one probed offset; see assembly/index.ts.
 * @param needles byte strings of four bytes and more @param inputBytes see `matcherFor` @param windows see `matcherFor`
 */
export function wasmGrams(
  needles: NeedleBytes,
  chunkSize = DEFAULT_CHUNK,
  runs?: Runs,
  inputBytes = Number.POSITIVE_INFINITY,
  windows?: ByteWindows,
): Matcher {
  return new WasmGrams(needles, chunkSize, runs, inputBytes, windows);
}

type Stride = 2 | 4 | 8;

/** Measured cost in nanoseconds: adding a window to the tables, and probing one offset of the text. */
const [PER_WINDOW, PER_PROBE] = [300, 2];

/** A needle has one window per residue of the stride; a shorter stride probes more offsets. */
function strideFor(shortest: number, needles: number, inputBytes: number): Stride {
  const longest: Stride = shortest >= 10 ? 8 : shortest >= 6 ? 4 : 2;
  const cost = (stride: Stride) => needles * stride * PER_WINDOW + (inputBytes / stride) * PER_PROBE;
  const possible = ([8, 4, 2] as const).filter((stride) => stride <= longest);
  return possible.reduce((best, stride) => (cost(stride) < cost(best) ? stride : best));
}

class WasmGrams implements Matcher {
  readonly window: Uint8Array;
  readonly #memory: Uint8Array;
  readonly #found: Uint32Array;
  readonly #kernel: Kernel;
  readonly #strings: ByteStrings;
  readonly #count: number;
  readonly #stride: Stride;
  /** Where the window begins, and how much of the last chunk precedes it. */
  readonly #text: number;
  readonly #carry: number;
  #carried = 0;
  #consumed = 0;

  readonly #hitCap: number;
  readonly #hasRuns: boolean;
  /** Number of consumed bytes at the end that may be the beginning of a run. */
  #openRun = 0;

  readonly #windows: WasmWindows | undefined;

  constructor(
    needles: NeedleBytes,
    chunkSize: number,
    runs: Runs | undefined,
    inputBytes: number,
    windows: ByteWindows | undefined,
  ) {
    const { strings, shortest, longest } = measured(needles, GRAM);
    const count = countOf(strings);
    this.#strings = strings;
    this.#count = count;
    this.#stride = strideFor(shortest, count, inputBytes);
    this.#carry = Math.max(0, longest - 1, runs ? LONGEST_OPEN_RUN : 0, windows ? LONGEST_STRETCH : 0);
    const layout = layoutOf(strings, this.#stride, this.#carry, chunkSize, runs?.marks.length ?? 0, windows);
    const host = (globalThis as unknown as { WebAssembly: WasmHost }).WebAssembly;
    const memory = new host.Memory({ initial: Math.ceil(layout.end / PAGE) });
    this.#memory = new Uint8Array(memory.buffer);
    this.#found = new Uint32Array(memory.buffer, layout.hits, layout.hitCap * (HIT / 4));
    this.#text = layout.text;
    this.window = this.#memory.subarray(layout.text, layout.text + chunkSize);
    compiled ??= new host.Module(Buffer.from(kernel, 'base64'));
    this.#kernel = new host.Instance(compiled, { env: { memory } }).exports as Kernel;
    this.#memory.set(rarityTable, RARITY);
    this.#memory.set(strings.bytes, layout.needles);
    new Uint32Array(memory.buffer, layout.offsets, count + 1).set(strings.starts);
    const { needles: at, table, mask, gramWindows, lists, hits, hitCap } = layout;
    this.#kernel.place(at, layout.offsets, table, mask, gramWindows, lists, hits, hitCap);
    this.#kernel.build(count, this.#stride);
    this.#hitCap = hitCap;
    this.#hasRuns = runs !== undefined;
    this.#windows =
      windows && layout.windows && new WasmWindows(windows, layout.windows, this.#kernel, this.#memory, count + 1);
    if (!runs) return;
    const { slots, grams } = markTable(runs.marks);
    this.#kernel.placeRuns(hits, hitCap, layout.kinds, layout.marks, layout.grams);
    this.#memory.set(kindOfByte, layout.kinds);
    this.#memory.set(slots, layout.marks);
    new Uint32Array(memory.buffer, layout.grams, grams.length).set(grams);
  }

  start(): void {
    this.#carried = 0;
    this.#consumed = 0;
    this.#openRun = 0;
  }

  feed(length: number, onHit: OnHit): void {
    const from = this.#text - this.#carried;
    const to = this.#text + length;
    const scan = this.#kernel[`scan${this.#stride}`];
    for (let at = from; at !== 0; ) {
      at = scan(at, from, to, this.#text);
      this.#report(onHit);
    }
    if (this.#hasRuns) this.#reportRuns(from, to, onHit);
    this.#windows?.feed(from, this.#text, to, this.#consumed - this.#text, onHit);
    this.#consumed += length;
    const carried = Math.min(this.#carry, this.#carried + length);
    this.#memory.copyWithin(this.#text - carried, to - carried, to);
    this.#carried = carried;
  }

  #reportRuns(from: number, to: number, onHit: OnHit): void {
    let at = this.#text - this.#openRun;
    for (let isFull = true; isFull; ) {
      at = this.#kernel.runs(at, to);
      isFull = this.#reportFound(onHit);
    }
    this.#openRun = Math.min(to - at, this.#carry);
    for (let next = this.#text; next < to; ) {
      next = this.#kernel.userInfos(next, from, to);
      this.#reportFound(onHit);
    }
  }

  /** Runs in the kernel's buffer. @returns whether it was full */
  #reportFound(onHit: OnHit): boolean {
    const count = this.#kernel.foundRuns();
    const offset = this.#consumed - this.#text;
    for (let index = 0; index < count; index++) {
      const [start = 0, end = 0] = this.#found.subarray(2 * index, 2 * index + 2);
      onHit(this.#count, offset + start, offset + end);
    }
    return count === this.#hitCap;
  }

  #report(onHit: OnHit): void {
    const count = this.#kernel.found();
    const { starts } = this.#strings;
    for (let index = 0; index < count; index++) {
      const needle = this.#found[2 * index] as number;
      const start = this.#consumed - this.#text + (this.#found[2 * index + 1] as number);
      onHit(needle, start, start + (starts[needle + 1] as number) - (starts[needle] as number));
    }
  }
}

/** Memory layout of the kernel. */
function layoutOf(
  strings: ByteStrings,
  stride: number,
  carry: number,
  chunkSize: number,
  markCount: number,
  byteWindows: ByteWindows | undefined,
) {
  const { bytes, starts } = strings;
  const count = countOf(strings);
  let windowCount = count * stride;
  // A needle that is one byte too short for its last class has 256 windows there.
  for (let index = 0; index < count; index++)
    if ((starts[index + 1] as number) - (starts[index] as number) < stride + GRAM - 1) windowCount += 256;
  const slots = 2 ** Math.ceil(Math.log2(Math.max(16, 2 * windowCount)));
  // All windows could be in one list, and a turn of the kernel looks at four.
  const hitCap = HITS + 4 * windowCount;
  let at = LAID_OUT_FROM;
  const take = (size: number) => {
    const start = at;
    at = Math.ceil((at + size) / 8) * 8;
    return start;
  };
  const kinds = take(kindOfByte.length);
  const marks = take(MARK_SLOTS);
  const grams = take(4 * markCount);
  const offsets = take(4 * (count + 1));
  const table = take(slots * ENTRY);
  const windows = take(windowCount * WINDOW);
  const lists = take(windowCount * WINDOW);
  const hits = take(hitCap * HIT);
  const needles = take(bytes.length + 8);
  const ofWindows = byteWindows && windowsLayout(byteWindows, take);
  take(carry);
  const text = take(chunkSize + BLOCK);
  return {
    ...{ kinds, marks, grams, offsets, table, mask: slots - 1, windows: ofWindows, lists, hits, hitCap, needles, text },
    gramWindows: windows,
    end: at,
  };
}
