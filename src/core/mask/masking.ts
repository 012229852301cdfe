import { findAll, type Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import { MASK } from '../secret.js';

const CHUNK = 64 * 1024;

/** So much of what may be a needle's beginning is shown when nothing follows: too little to tell, enough for a prompt. */
const TELLS_NOTHING = 3;

/**
 * Masks needles in a stream of bytes, wherever the chunks are cut. What could be the beginning of a needle is held back
 * until the next chunk, and nothing else is.
 */
export class MaskingStream {
  readonly #matcher: Matcher;
  readonly #byHead = new Map<number, Uint8Array[]>();
  readonly #longest: number;
  readonly #mask = Buffer.from(MASK);
  #held: Buffer = Buffer.alloc(0);
  /** How much of what is held was shown already. */
  #shown = 0;

  /** @param needles byte strings of four bytes and more */
  constructor(needles: readonly Uint8Array[]) {
    this.#matcher = matcherFor(needles, CHUNK);
    this.#longest = needles.reduce((longest, { length }) => Math.max(longest, length), 0);
    for (const needle of needles) {
      const head = needle[0] as number;
      this.#byHead.set(head, [...(this.#byHead.get(head) ?? []), needle]);
    }
  }

  /** What may be shown now. */
  push(chunk: Uint8Array): Buffer {
    const text = this.#held.length > 0 ? Buffer.concat([this.#held, chunk]) : Buffer.from(chunk);
    const ranges = this.#ranges(text);
    const until = this.#showUntil(ranges, this.#possibleStart(text));
    const masked = this.#masked(text, ranges, until);
    this.#held = text.subarray(until);
    this.#shown = Math.max(0, this.#shown - until);
    return masked;
  }

  /**
   * What may be shown as the stream rests: a held end of three bytes at most, so that a prompt is whole. It goes on being
   * looked at, and a needle that it turns out to begin is masked from there.
   */
  pause(): Buffer {
    if (this.#held.length > TELLS_NOTHING) return Buffer.alloc(0);
    const rest = this.#held.subarray(this.#shown);
    this.#shown = this.#held.length;
    return rest;
  }

  /** What was held back, when nothing more comes. */
  end(): Buffer {
    const rest = this.#masked(this.#held, this.#ranges(this.#held), this.#held.length);
    this.#held = Buffer.alloc(0);
    this.#shown = 0;
    return rest;
  }

  /** A needle may begin inside another one's hit; then the hit waits too, or its end would be shown. */
  #showUntil(ranges: readonly { start: number; end: number }[], possibleStart: number): number {
    const cut = ranges.find(({ start, end }) => start < possibleStart && end > possibleStart);
    const isEndless = cut && possibleStart - cut.start > 4 * this.#longest;
    return cut && !isEndless ? cut.start : possibleStart;
  }

  #ranges(text: Uint8Array): { start: number; end: number }[] {
    const ranges: { start: number; end: number }[] = [];
    for (const { start, end } of findAll(this.#matcher, text)) {
      const last = ranges.at(-1);
      if (last && start < last.end) last.end = Math.max(last.end, end);
      else ranges.push({ start, end });
    }
    return ranges;
  }

  #masked(text: Buffer, ranges: readonly { start: number; end: number }[], until: number): Buffer {
    const pieces: Buffer[] = [];
    let at = this.#shown;
    for (const { start, end } of ranges) {
      if (start >= until) break;
      pieces.push(text.subarray(at, Math.max(at, start)), this.#mask);
      at = end;
    }
    if (at < until) pieces.push(text.subarray(at, until));
    return Buffer.concat(pieces);
  }

  /** The first offset from which on the text could be the beginning of a needle. */
  #possibleStart(text: Uint8Array): number {
    for (let at = Math.max(0, text.length - this.#longest + 1); at < text.length; at++) {
      if (this.#byHead.get(text[at] as number)?.some((needle) => beginsWith(needle, text, at))) return at;
    }
    return text.length;
  }
}

function beginsWith(needle: Uint8Array, text: Uint8Array, at: number): boolean {
  const length = text.length - at;
  if (length >= needle.length) return false;
  for (let i = 0; i < length; i++) if (needle[i] !== text[at + i]) return false;
  return true;
}
