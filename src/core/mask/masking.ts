import { limits } from '../limits/index.js';
import { AnchoredNeedles } from '../needles/needle-set.js';
import { findAll, type Matcher } from '../search/matcher.js';
import { matcherFor } from '../search/matcher-for.js';
import { MASK } from '../secrets/secret.js';
import type { Range } from '../text/ranges.js';
import { joinedRanges } from '../text/ranges.js';
import { AnchoredValues } from './anchored.js';
import { printedMarks, squeeze, withoutStyles } from './wrapped.js';

const CHUNK = 64 * 1024;
const [BACKSLASH, ESCAPE] = [0x5c, 0x1b];

const LONGEST_MARK = Math.max(...printedMarks.map(({ length }) => length));

/** The ranges of a text to mask, and the place from which on more may follow. */
interface Look {
  ranges: Range[];
  possibleStart: number;
  tellsNothingUntil: number;
}

/** Held bytes from which on a look at them is worth waiting for more: half as many again. */
const MANY_HELD = 16 * 1024;

/** Number of bytes of a possible match that may be shown while the stream pauses: enough for a prompt, too few to reveal a value. */
const TELLS_NOTHING = 3;

/** Number of characters of a wrapped value, which has at least 57, that reveal nothing. */
const SHORT_OF_WRAPPED = 7;

/**
 * Masks byte strings in a stream, wherever the chunks are cut. A possible beginning of one is held back until the
 * next chunk, and nothing else is.
 */
export class MaskingStream {
  readonly #plain: Needles;
  /** Squeezed byte strings, searched for in the squeezed stream. */
  readonly #wrapped: Needles | undefined;
  /** The same with the forms of printed buffers and arrays, once the stream has printed one: to squeeze a stream takes long. */
  readonly #printed: Needles | undefined;
  #prints = false;
  /** The last bytes before a chunk, in which a mark may begin. */
  #before: Buffer = Buffer.alloc(0);
  readonly #anchored: AnchoredValues | undefined;
  readonly #mask = Buffer.from(MASK);
  #held: Buffer = Buffer.alloc(0);
  /** Chunks since the last look, behind many held bytes. */
  #waiting: Buffer[] = [];
  #waitingBytes = 0;
  /** How much of what is held was shown already. */
  #shown = 0;
  /** How much of what is held tells too little of a value to be kept from a prompt. */
  #tellsNothing = 0;

  /**
   * @param needles byte strings of four bytes and more
   * @param wrapped byte strings without white space that may have line breaks and indentation in the stream
   * @param anchored forms of anchors, whose values may be in any mixture of encodings
   * @param printed byte strings without white space, searched for once the stream has a buffer or an array
   */
  constructor(
    needles: readonly Uint8Array[],
    wrapped: readonly Uint8Array[] = [],
    anchored = new AnchoredNeedles<unknown>([]),
    printed: readonly Uint8Array[] = [],
  ) {
    this.#plain = new Needles(needles);
    this.#wrapped = wrapped.length > 0 ? new Needles(wrapped) : undefined;
    this.#printed = printed.length > 0 ? new Needles([...wrapped, ...printed]) : undefined;
    this.#anchored = anchored.length > 0 ? new AnchoredValues(anchored, CHUNK) : undefined;
  }

  /** Output that may be shown now. */
  push(chunk: Uint8Array): Buffer {
    this.#watch(chunk);
    this.#waiting.push(Buffer.from(chunk));
    this.#waitingBytes += chunk.length;
    // A long value that comes in small chunks would be searched from its start with each of them.
    const isEarly = this.#held.length > MANY_HELD && this.#waitingBytes < this.#held.length / 2;
    return isEarly ? Buffer.alloc(0) : this.#show();
  }

  #show(): Buffer {
    const text = this.#takeAll();
    const { ranges, possibleStart, tellsNothingUntil } = this.#look(text);
    const until = this.#showUntil(ranges, possibleStart);
    const masked = this.#masked(text, ranges, until);
    this.#held = text.subarray(until);
    this.#shown = Math.max(0, this.#shown - until);
    // Nothing to tell apart where a match waits for more.
    this.#tellsNothing = until === possibleStart ? Math.max(0, tellsNothingUntil - until) : 0;
    return masked;
  }

  /** Everything that was not shown, as one text. */
  #takeAll(): Buffer {
    const [first = this.#held, ...others] = this.#held.length > 0 ? [this.#held, ...this.#waiting] : this.#waiting;
    this.#waiting = [];
    this.#waitingBytes = 0;
    return others.length > 0 ? Buffer.concat([first, ...others]) : first;
  }

  /** Notes that the stream prints a buffer or an array. */
  #watch(chunk: Uint8Array): void {
    if (this.#prints || !this.#printed) return;
    const text = Buffer.concat([this.#before, chunk]);
    this.#prints = printedMarks.some((mark) => text.includes(mark));
    this.#before = text.subarray(-LONGEST_MARK);
  }

  /**
   * Returns the bytes that may be shown while the stream pauses: a held tail too short to reveal a value, so that a prompt is complete. The tail
   * still counts for matching; if a needle starts in it, the rest of the needle is masked.
   */
  pause(): Buffer {
    const shown = this.#waitingBytes > 0 ? this.#show() : Buffer.alloc(0);
    const until = this.#held.length <= TELLS_NOTHING ? this.#held.length : this.#tellsNothing;
    const rest = this.#held.subarray(this.#shown, Math.max(this.#shown, until));
    this.#shown += rest.length;
    return Buffer.concat([shown, rest]);
  }

  /** Output that was held back, at the end of the stream. */
  end(): Buffer {
    const text = this.#takeAll();
    const rest = this.#masked(text, this.#look(text).ranges, text.length);
    this.#held = Buffer.alloc(0);
    this.#shown = 0;
    return rest;
  }

  /**
   * Finds the ranges to mask in a text, from where on it could be the beginning of more, and up to where that is so little of
   * a long value that it tells nothing: a line must not wait for the next one because of its last letter.
   */
  #look(text: Buffer): Look {
    // Programs colour parts of a value, so the text is searched without its styles.
    if (!text.includes(ESCAPE)) return this.#lookAt(text);
    const { bytes, originOf: place } = withoutStyles(text);
    const { ranges, possibleStart, tellsNothingUntil } = this.#lookAt(bytes);
    return {
      ranges: ranges.map(({ start, end }) => ({ start: place(start), end: place(end - 1) + 1 })),
      possibleStart: place(possibleStart),
      tellsNothingUntil: place(tellsNothingUntil),
    };
  }

  #lookAt(text: Buffer): Look {
    const found = this.#plain.rangesIn(text);
    const plain = found.length;
    let possibleStart = this.#plain.possibleStart(text);
    if (this.#anchored) {
      found.push(...this.#anchored.rangesIn(text));
      possibleStart = Math.min(possibleStart, this.#anchored.possibleStart(text));
    }
    let tellsNothingUntil = possibleStart;
    const squeezed = this.#prints ? this.#printed : this.#wrapped;
    if (squeezed) {
      const { bytes, offsets } = squeeze(text);
      for (const { start, end } of squeezed.rangesIn(bytes))
        found.push({ start: offsets[start] as number, end: (offsets[end - 1] as number) + 1 });
      // A backslash at the end may be half of an escape.
      const known = bytes.at(-1) === BACKSLASH ? bytes.subarray(0, -1) : bytes;
      const first = squeezed.possibleStart(known);
      const begin = offsets[first] as number;
      if (bytes.length - first > SHORT_OF_WRAPPED) tellsNothingUntil = Math.min(tellsNothingUntil, begin);
      if (text.length - begin <= limits.heldOutputBytes.value) possibleStart = Math.min(possibleStart, begin);
    }
    return {
      ranges: found.length === plain ? found : joinedRanges(found, false),
      possibleStart,
      tellsNothingUntil,
    };
  }

  /** A needle may begin inside another one's hit. Then the hit waits too; otherwise its end would be shown. */
  #showUntil(ranges: readonly Range[], possibleStart: number): number {
    const cut = ranges.find(({ start, end }) => start < possibleStart && end > possibleStart);
    const isEndless = cut && possibleStart - cut.start > Math.max(limits.heldOutputBytes.value, 4 * this.#longest);
    return cut && !isEndless ? cut.start : possibleStart;
  }

  get #longest(): number {
    return Math.max(this.#plain.longest, this.#anchored?.longest ?? 0);
  }

  #masked(text: Buffer, ranges: readonly Range[], until: number): Buffer {
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
}

/** Byte strings with what finds them, and what tells that one may be beginning. */
class Needles {
  readonly longest: number;
  readonly #matcher: Matcher;
  readonly #byHead = new Map<number, Uint8Array[]>();

  constructor(needles: readonly Uint8Array[]) {
    this.#matcher = matcherFor(needles, CHUNK);
    this.longest = needles.reduce((longest, { length }) => Math.max(longest, length), 0);
    for (const needle of needles) {
      const head = needle[0] as number;
      const known = this.#byHead.get(head);
      if (known) known.push(needle);
      else this.#byHead.set(head, [needle]);
    }
  }

  /** Overlapping ones as one. */
  rangesIn(text: Uint8Array): Range[] {
    return joinedRanges(findAll(this.#matcher, text), false);
  }

  /** The first offset from which on the text could be the beginning of a needle. */
  possibleStart(text: Uint8Array): number {
    for (let at = Math.max(0, text.length - this.longest + 1); at < text.length; at++) {
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
