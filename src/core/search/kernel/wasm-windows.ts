import { encodeHTML } from 'entities';
import type { OnHit } from '../matcher.js';
import { type ByteWindows, LONGEST_STRETCH } from '../windows/byte-windows.js';

/** Functions of assembly/windows.ts. */
export interface WindowsKernel {
  placeWindows(...places: number[]): void;
  addWindow(low: number, high: number, owner: number): void;
  foundWindows(): number;
  tokens(at: number, to: number): number;
  writings(at: number, from: number, to: number): number;
  pairs(at: number, from: number, to: number): number;
  numberLists(at: number, to: number): number;
  probes(at: number, to: number): number;
}

/** Room for hits, of three numbers each. */
const HITS = 8192;
const HIT = 12;
/** Buffers for decoded text: see assembly/windows.ts. */
const SCRATCH = 3 * 5 * 1152 + 64;
const ENTRY = 16;

/** Filter bits for each window. */
const FILTER_BITS = 16;

/** Named characters of markup, ASCII only: for each, its length, the character and its name. */
const names = Buffer.concat([
  ...Array.from({ length: 0x5f }, (_, index) => String.fromCharCode(0x20 + index)).flatMap((character) => {
    const [, name] = /^&([a-zA-Z]+);$/.exec(encodeHTML(character)) ?? [];
    const all = [...(name === undefined ? [] : [name]), ...(character === "'" ? ['apos'] : [])];
    return [...new Set(all)].map((one) => Buffer.from([one.length, character.charCodeAt(0), ...Buffer.from(one)]));
  }),
  Buffer.from([0]),
]);

/** The value of every digit of base64, in both alphabets. */
const digits = new Uint8Array(256);
for (const [value, digit] of [...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'].entries())
  digits[digit.charCodeAt(0)] = value;
digits['-'.charCodeAt(0)] = 62;
digits['_'.charCodeAt(0)] = 63;

/** Places of the windows in the kernel's memory. @param take reserves bytes and returns where they begin */
export function windowsLayout(windows: ByteWindows, take: (size: number) => number) {
  const count = windows.hashes.length / 3;
  const filterBits = 2 ** Math.ceil(Math.log2(Math.max(1024, FILTER_BITS * count)));
  const slots = 2 ** Math.ceil(Math.log2(Math.max(16, 2 * count)));
  return {
    hits: take(HITS * HIT),
    keys: take(windows.keys.length),
    widths: take(4 * windows.widths.length),
    filter: take(filterBits / 8),
    filterBits,
    table: take(slots * ENTRY),
    slots,
    scratch: take(SCRATCH),
    digits: take(digits.length),
    names: take(names.length),
  };
}

/** The search for byte windows in the kernel's memory. */
export class WasmWindows {
  readonly #hits: Uint32Array;

  /** @param first number of the first owner's hits */
  constructor(
    windows: ByteWindows,
    layout: ReturnType<typeof windowsLayout>,
    readonly kernel: WindowsKernel,
    memory: Uint8Array,
    readonly first: number,
  ) {
    const { hits, keys, widths, filter, filterBits, table, slots, scratch } = layout;
    memory.set(windows.keys, keys);
    memory.set(digits, layout.digits);
    memory.set(names, layout.names);
    new Uint32Array(memory.buffer, widths, windows.widths.length).set(windows.widths);
    const { run, dense, loose } = windows.strides;
    kernel.placeWindows(
      ...[hits, HITS, keys, windows.keys.length / 16, widths, windows.widths.length, filter, filterBits, table, slots],
      ...[scratch, layout.digits, layout.names, run, dense, loose, windows.shortestRun < 16 ? 12 : 16],
    );
    const { hashes } = windows;
    for (let at = 0; at < hashes.length; at += 3)
      kernel.addWindow(hashes[at] as number, hashes[at + 1] as number, hashes[at + 2] as number);
    this.#hits = new Uint32Array(memory.buffer, hits, HITS * 3);
  }

  /**
   * Reports the stretches with windows, once for each owner. A stretch at the end of a chunk is reported again with the next one.
   * @param from where the bytes of earlier chunks begin @param text where the new ones begin @param shift added to offsets
   */
  feed(from: number, text: number, to: number, shift: number, onHit: OnHit): void {
    const { kernel } = this;
    const start = Math.max(from, text - LONGEST_STRETCH);
    const pass = (next: (at: number) => number) => {
      for (let at = start; at < to; ) {
        at = next(at);
        this.#report(shift, onHit);
      }
    };
    pass((at) => kernel.tokens(at, to));
    pass((at) => kernel.writings(at, start, to));
    pass((at) => kernel.pairs(at, start, to));
    pass((at) => kernel.numberLists(at, to));
    pass((at) => kernel.probes(at, to));
  }

  #report(shift: number, onHit: OnHit): void {
    const count = this.kernel.foundWindows();
    for (let index = 0; index < count; index++) {
      const [start = 0, end = 0, owner = 0] = this.#hits.subarray(3 * index, 3 * index + 3);
      onHit(this.first + owner, shift + start, shift + end);
    }
  }
}
