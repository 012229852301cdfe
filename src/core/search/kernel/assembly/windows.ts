// Byte windows of values that are known by hashes alone; search/windows is the twin in JavaScript. A hash is computed only where a window
// may begin, so the text is decoded instead of the value being encoded: base64, hexadecimal, UTF-16, lists of numbers and escapes,
// nested up to DEEPEST times.
import { endOf, tokenBits, tokenBitsOfBlock } from './runs';

/** Bytes of text that are decoded together, and how many of them are decoded again with the next ones. */
const REGION: usize = 1024;
const OVERLAP: usize = 512;
/** The same for runs of token characters, in which a window is shorter. */
const RUN_OVERLAP: usize = 256;

const DEEPEST: u32 = 3;

const SHORTEST_WINDOW: usize = 12;
const LONGEST_WINDOW: usize = 64;

/** Buffers of each depth: one for decoded text, then one for each alignment of base64. */
const PHASE: usize = 1152;
const ROOM: usize = 5 * PHASE;

const HIT: usize = 12;
let hits: usize;
let hitCap: u32;
let hitCount: u32;

/** Where the caller says where everything is. */
let keys: usize;
let sectionCount: u32;
let widths: usize;
let widthCount: u32;
let filter: usize;
let filterMask: u32;
let table: usize;
let tableMask: u32;
let scratch: usize;
let digits: usize;
let names: usize;

/** Distance of the probed offsets in runs of token characters, and elsewhere; 0 if no value has windows there. */
let runStride: usize;
let denseStride: usize;
let looseStride: usize;
let shortestRun: u32;

/** The stretch of the text that is being decoded, and the number of hits before it. */
let topStart: usize;
let topEnd: usize;
let hitsBefore: u32;

export function placeWindows(
  hitsAt: usize,
  cap: u32,
  keysAt: usize,
  sections: u32,
  widthsAt: usize,
  numberOfWidths: u32,
  filterAt: usize,
  filterBits: u32,
  tableAt: usize,
  slots: u32,
  scratchAt: usize,
  digitsAt: usize,
  namesAt: usize,
  strideInRuns: usize,
  strideOfDense: usize,
  strideOfLoose: usize,
  shortest: u32,
): void {
  hits = hitsAt;
  hitCap = cap;
  keys = keysAt;
  sectionCount = sections;
  widths = widthsAt;
  widthCount = numberOfWidths;
  filter = filterAt;
  filterMask = filterBits - 1;
  table = tableAt;
  tableMask = slots - 1;
  scratch = scratchAt;
  digits = digitsAt;
  names = namesAt;
  runStride = strideInRuns;
  denseStride = strideOfDense;
  looseStride = strideOfLoose;
  shortestRun = shortest;
}

export function foundWindows(): u32 {
  return hitCount;
}

// An entry of the table: hash, owner and 1, unused.
const ENTRY: usize = 16;

/** @param hash of a window, not 0 */
export function addWindow(low: u32, high: u32, owner: u32): void {
  const hash = ((high as u64) << 32) | (low as u64);
  const place = low & filterMask;
  const byte = filter + (place >>> 3);
  store<u8>(byte, load<u8>(byte) | (1 << ((place & 7) as u8)));
  let slot = high & tableMask;
  while (load<u32>(table + (slot as usize) * ENTRY, 8) !== 0) slot = (slot + 1) & tableMask;
  store<u64>(table + (slot as usize) * ENTRY, hash);
  store<u32>(table + (slot as usize) * ENTRY, owner + 1, 8);
}

// @ts-ignore: decorator
@inline
function isKnown(hash: u64): bool {
  const place = (hash as u32) & filterMask;
  return ((load<u8>(filter + (place >>> 3)) >>> ((place & 7) as u8)) & 1) !== 0;
}

/** Reports the owners of a window, each once for a stretch of text. */
function report(hash: u64): void {
  let slot = ((hash >>> 32) as u32) & tableMask;
  for (;;) {
    const entry = table + (slot as usize) * ENTRY;
    const owner = load<u32>(entry, 8);
    if (owner === 0) return;
    if (load<u64>(entry) === hash) push(owner - 1);
    slot = (slot + 1) & tableMask;
  }
}

function push(owner: u32): void {
  for (let known = hitsBefore; known < hitCount; known++)
    if (load<u32>(hits + (known as usize) * HIT, 8) === owner) return;
  // The stretch is searched again if not all of its owners fit.
  if (hitCount < hitCap) {
    const hit = hits + (hitCount as usize) * HIT;
    store<u32>(hit, topStart as u32);
    store<u32>(hit, topEnd as u32, 4);
    store<u32>(hit, owner, 8);
  }
  hitCount++;
}

/**
 * SipHash-2-4 (Aumasson and Bernstein, INDOCRYPT 2012), with its rounds one after the other: a loop takes twice as long.
 * @param length a multiple of 4
 */
function sipHash(at: usize, length: u32, key: usize): u64 {
  const k0 = load<u64>(key);
  const k1 = load<u64>(key, 8);
  let v0: u64 = k0 ^ 0x736f6d6570736575;
  let v1: u64 = k1 ^ 0x646f72616e646f6d;
  let v2: u64 = k0 ^ 0x6c7967656e657261;
  let v3: u64 = k1 ^ 0x7465646279746573;
  const end = at + ((length & ~7) as usize);
  for (;;) {
    const isLast = at === end;
    let m: u64;
    if (isLast) {
      m = (length as u64) << 56;
      if ((length & 4) !== 0) m |= load<u32>(at) as u64;
    } else m = load<u64>(at);
    v3 ^= m;
    v0 += v1; v1 = rotl<u64>(v1, 13) ^ v0; v0 = rotl<u64>(v0, 32);
    v2 += v3; v3 = rotl<u64>(v3, 16) ^ v2;
    v0 += v3; v3 = rotl<u64>(v3, 21) ^ v0;
    v2 += v1; v1 = rotl<u64>(v1, 17) ^ v2; v2 = rotl<u64>(v2, 32);
    v0 += v1; v1 = rotl<u64>(v1, 13) ^ v0; v0 = rotl<u64>(v0, 32);
    v2 += v3; v3 = rotl<u64>(v3, 16) ^ v2;
    v0 += v3; v3 = rotl<u64>(v3, 21) ^ v0;
    v2 += v1; v1 = rotl<u64>(v1, 17) ^ v2; v2 = rotl<u64>(v2, 32);
    v0 ^= m;
    if (isLast) break;
    at += 8;
  }
  v2 ^= 0xff;
  v0 += v1; v1 = rotl<u64>(v1, 13) ^ v0; v0 = rotl<u64>(v0, 32);
  v2 += v3; v3 = rotl<u64>(v3, 16) ^ v2;
  v0 += v3; v3 = rotl<u64>(v3, 21) ^ v0;
  v2 += v1; v1 = rotl<u64>(v1, 17) ^ v2; v2 = rotl<u64>(v2, 32);
  v0 += v1; v1 = rotl<u64>(v1, 13) ^ v0; v0 = rotl<u64>(v0, 32);
  v2 += v3; v3 = rotl<u64>(v3, 16) ^ v2;
  v0 += v3; v3 = rotl<u64>(v3, 21) ^ v0;
  v2 += v1; v1 = rotl<u64>(v1, 17) ^ v2; v2 = rotl<u64>(v2, 32);
  v0 += v1; v1 = rotl<u64>(v1, 13) ^ v0; v0 = rotl<u64>(v0, 32);
  v2 += v3; v3 = rotl<u64>(v3, 16) ^ v2;
  v0 += v3; v3 = rotl<u64>(v3, 21) ^ v0;
  v2 += v1; v1 = rotl<u64>(v1, 17) ^ v2; v2 = rotl<u64>(v2, 32);
  v0 += v1; v1 = rotl<u64>(v1, 13) ^ v0; v0 = rotl<u64>(v0, 32);
  v2 += v3; v3 = rotl<u64>(v3, 16) ^ v2;
  v0 += v3; v3 = rotl<u64>(v3, 21) ^ v0;
  v2 += v1; v1 = rotl<u64>(v1, 17) ^ v2; v2 = rotl<u64>(v2, 32);
  return v0 ^ v1 ^ v2 ^ v3;
}

/** Hashes the windows at an offset. */
// @ts-ignore: decorator
@inline
function probeAt(at: usize, to: usize): void {
  for (let width: u32 = 0; width < widthCount; width++) {
    const length = load<u32>(widths + (width as usize) * 4);
    if (at + (length as usize) > to) return;
    for (let section: u32 = 0; section < sectionCount; section++) {
      const hash = sipHash(at, length, keys + (section as usize) * 16);
      if (isKnown(hash)) report(hash);
    }
  }
}

/** Hashes windows at every `stride`th offset. */
function probe(from: usize, to: usize, stride: usize): void {
  for (let at = from; at < to; at += stride) probeAt(at, to);
}

/** The same in a run: where a digit is among the next 16 bytes. */
function probeRun(from: usize, to: usize): void {
  for (let at = from; at < to; at += runStride) if (digitBits(at) !== 0) probeAt(at, to);
}

/** The same where a window may be: 12 bytes without white space, and letters of both cases and a digit among 16. */
function probeDense(from: usize, to: usize): void {
  for (let block = from; block < to; block += 48) {
    const digits = digitBitsOf(block);
    if (digits === 0) continue;
    const blanks = blankBits(block) | (blankBits(block + 16) << 16) | (blankBits(block + 32) << 32) | (blankBits(block + 48) << 48);
    for (let offset: u64 = 0; offset < 48; offset += denseStride)
      if (((blanks >> offset) & 0xfff) === 0 && ((digits >> offset) & 0xffff) !== 0 && hasBothCases(block + (offset as usize)))
        probeAt(block + (offset as usize), to);
  }
}

// @ts-ignore: decorator
@inline
function digitBitsOf(at: usize): u64 {
  return (
    (digitBits(at) as u64) | ((digitBits(at + 16) as u64) << 16) | ((digitBits(at + 32) as u64) << 32) |
    ((digitBits(at + 48) as u64) << 48)
  );
}

// @ts-ignore: decorator
@inline
function hasBothCases(at: usize): bool {
  const bytes = v128.load(at);
  const capitals = v128.lt<u8>(v128.sub<i8>(bytes, i8x16.splat(0x41)), i8x16.splat(26));
  const small = v128.lt<u8>(v128.sub<i8>(bytes, i8x16.splat(0x61)), i8x16.splat(26));
  return v128.any_true(capitals) && v128.any_true(small);
}

// @ts-ignore: decorator
@inline
function blankBits(at: usize): u64 {
  return (v128.bitmask<i8>(v128.le<u8>(v128.load(at), i8x16.splat(0x20))) as u32) as u64;
}

function probeElsewhere(from: usize, to: usize): void {
  if (looseStride !== 0) probe(from, to, looseStride);
  else if (denseStride !== 0) probeDense(from, to);
}

/** Where the run ends that {@link nextRun} found. */
let runEnd: usize;

/** The next run of token characters that a window fits in and that is no name in code. @returns its start, or `to` */
function nextRun(from: usize, to: usize): usize {
  let before: u32 = 0;
  for (let at = from; at < to; ) {
    let bits = tokenBitsOfBlock(at);
    const rest = to - at;
    if (rest < 64) bits &= ((1 as u64) << (rest as u64)) - 1;
    const two = bits & (bits >> 1);
    const four = two & (two >> 2);
    let starts = four & (four >> 4) & (four >> 8);
    if (shortestRun === 16) starts &= four >> 12;
    const goesOn = before + (ctz(~bits) as u32) >= shortestRun;
    if (starts === 0 && !goesOn) {
      before = clz(~bits) as u32;
      at += 64;
      continue;
    }
    const start = goesOn ? at - before : at + (ctz(starts) as usize);
    runEnd = endOf(goesOn ? at : start, to);
    if (isNoName(start, runEnd)) return start;
    at = runEnd;
    before = 0;
  }
  return to;
}

// @ts-ignore: decorator
@inline
function digitBits(at: usize): u32 {
  return v128.bitmask<i8>(v128.lt<u8>(v128.sub<i8>(v128.load(at), i8x16.splat(0x30)), i8x16.splat(10)));
}

function hasDigit(from: usize, to: usize): bool {
  for (let at = from; at < to; at += 16) {
    const bits = digitBits(at);
    if (bits !== 0 && at + (ctz(bits) as usize) < to) return true;
  }
  return false;
}

/** Most runs are names in code: without digits, and without two capitals in a row. Random text and base64 have either. */
function isNoName(from: usize, to: usize): bool {
  let last: u32 = 0;
  for (let at = from; at < to; at += 16) {
    const rest = to - at;
    const inRun = rest < 16 ? ((1 as u32) << (rest as u32)) - 1 : 0xffff;
    const bytes = v128.load(at);
    const isDigit = v128.lt<u8>(v128.sub<i8>(bytes, i8x16.splat(0x30)), i8x16.splat(10));
    if ((v128.bitmask<i8>(isDigit) & inRun) !== 0) return true;
    const capitals = v128.bitmask<i8>(v128.lt<u8>(v128.sub<i8>(bytes, i8x16.splat(0x41)), i8x16.splat(26))) & inRun;
    if ((capitals & ((capitals << 1) | last)) !== 0) return true;
    last = capitals >>> 15;
  }
  return false;
}

/** Searches a text that was decoded. */
function look(from: usize, to: usize, depth: u32): void {
  if (to - from < SHORTEST_WINDOW || !isText(from, to)) return;
  probeElsewhere(from, to);
  for (let at = nextRun(from, to); at < to; at = nextRun(runEnd, to)) lookInRun(at, to, depth);
  if (depth === DEEPEST) return;
  for (let at = from; at < to; ) at = nextWriting(at, from, to, depth);
  for (let at = from; at < to; ) at = nextPair(at, from, to, depth);
  for (let at = from; at < to; ) at = nextList(at, to, depth);
}

/** Tells whether bytes have so many characters of ASCII in a row that a window fits in, or such in UTF-16. Text that was no base64 has none. */
function isText(from: usize, to: usize): bool {
  let before: u32 = 0;
  for (let at = from; at < to; at += 64) {
    const bits = asciiBits(at) | (asciiBits(at + 16) << 16) | (asciiBits(at + 32) << 32) | (asciiBits(at + 48) << 48);
    const two = bits & (bits >> 1);
    const four = two & (two >> 2);
    if ((four & (four >> 4) & (four >> 8)) !== 0 || before + (ctz(~bits) as u32) >= 12) return true;
    before = clz(~bits) as u32;
    const zeros = zeroBits(at) | (zeroBits(at + 16) << 16) | (zeroBits(at + 32) << 32) | (zeroBits(at + 48) << 48);
    if ((zeros & (zeros >> 2) & (zeros >> 4)) !== 0) return true;
  }
  return false;
}

// @ts-ignore: decorator
@inline
function asciiBits(at: usize): u64 {
  return (v128.bitmask<i8>(v128.gt<i8>(v128.load(at), i8x16.splat(0x08))) as u32) as u64;
}

/** Searches the run from `at` to {@link runEnd}, as it is and decoded. */
function lookInRun(at: usize, to: usize, depth: u32): void {
  const end = runEnd;
  for (;;) {
    const stop = min(end, at + REGION);
    if (depth === 0) aim(at, stop);
    if (runStride !== 0) probeRun(at, stop);
    if (depth < DEEPEST && stop - at >= 16) {
      lookInHex(at, stop, depth);
      lookInBase64(at, stop, depth);
    }
    if (stop === end) break;
    at = stop - RUN_OVERLAP;
  }
  if (depth < DEEPEST) lookAcrossBreak(max(at, end - min(end - at, OVERLAP)), end, to, depth);
  runEnd = end;
}

function aim(start: usize, end: usize): void {
  topStart = start;
  topEnd = end;
  hitsBefore = hitCount;
}

// @ts-ignore: decorator
@inline
function bufferOf(depth: u32): usize {
  return scratch + (depth as usize) * ROOM;
}

/** Decodes all four alignments at once. */
function lookInBase64(from: usize, to: usize, depth: u32): void {
  const first = bufferOf(depth) + PHASE;
  let group: u32 = 0;
  for (let at = from, end = min(to, from + 3); at < end; at++) group = (group << 6) | (load<u8>(digits + (load<u8>(at) as usize)) as u32);
  let out = first;
  let phase: usize = 0;
  // The last group may have two or three characters.
  for (let at = from + 3, end = to + 2; at < end; at++) {
    const digit = at < to ? (load<u8>(digits + (load<u8>(at) as usize)) as u32) : 0;
    group = (group << 6) | digit;
    // The fourth byte is overwritten by the next group.
    store<u32>(out, bswap<u32>(group << 8));
    phase++;
    out += PHASE;
    if (phase === 4) {
      phase = 0;
      out -= 4 * PHASE - 3;
    }
  }
  const count = to - from - 1;
  for (let lead: usize = 0; lead < 4; lead++) {
    const length = ((count + 3 - lead) >> 2) * 3;
    const buffer = first + lead * PHASE;
    look(buffer, buffer + length, depth + 1);
  }
}

// @ts-ignore: decorator
@inline
function hexOf(byte: u8): i32 {
  if (byte >= 0x30 && byte <= 0x39) return byte - 0x30;
  const letter = byte | 0x20;
  return letter >= 0x61 && letter <= 0x66 ? letter - 0x57 : -1;
}

/** Both alignments of the hexadecimal digits in a run. */
function lookInHex(from: usize, to: usize, depth: u32): void {
  const buffer = bufferOf(depth);
  for (let at = from; at + 2 * (shortestRun as usize) <= to; ) {
    if (hexOf(load<u8>(at)) < 0) {
      at++;
      continue;
    }
    let end = at + 1;
    while (end < to && hexOf(load<u8>(end)) >= 0) end++;
    if (end - at >= 2 * (shortestRun as usize))
      for (let lead: usize = 0; lead < 2; lead++) {
        let out = buffer;
        for (let digit = at + lead; digit + 2 <= end; digit += 2) {
          store<u8>(out, ((hexOf(load<u8>(digit)) << 4) | hexOf(load<u8>(digit + 1))) as u8);
          out++;
        }
        look(buffer, out, depth + 1);
      }
    at = end + 1;
  }
}

/** Lines of base64 are at least so long, except the last one. */
const LINE: usize = 40;

/** A run that goes on in the next line, which is escaped in strings: both parts as one run. */
function lookAcrossBreak(from: usize, end: usize, to: usize, depth: u32): void {
  if (end - from < LINE) return;
  let next = end;
  while (next < to && next < end + 64) {
    const byte = load<u8>(next);
    if (byte === 0x0a || byte === 0x0d || byte === 0x20 || byte === 0x09) next++;
    else if (byte === BACKSLASH && next + 1 < to && isLetterOfBreak(load<u8>(next + 1))) next += 2;
    else break;
  }
  if (next === end || next >= to) return;
  const stop = min(endOf(next, to), next + REGION - OVERLAP);
  if (stop - next < 4) return;
  // The buffer of decoded text is free: base64 is decoded into the others.
  const buffer = bufferOf(depth);
  const kept = min(end - from, OVERLAP);
  memory.copy(buffer, end - kept, kept);
  memory.copy(buffer + kept, next, stop - next);
  if (depth === 0) aim(end - kept, stop);
  lookInBase64(buffer, buffer + kept + (stop - next), depth);
}

// @ts-ignore: decorator
@inline
function isLetterOfBreak(byte: u8): bool {
  return byte === 0x6e || byte === 0x72 || byte === 0x74;
}

const BACKSLASH: u8 = 0x5c;
const PERCENT: u8 = 0x25;
const AMPERSAND: u8 = 0x26;

/** Bits of the bytes that may begin an escape. */
// @ts-ignore: decorator
@inline
function escapeBits(at: usize): u64 {
  const bytes = v128.load(at);
  const marks = v128.or(
    v128.eq<i8>(bytes, i8x16.splat(0x5c)),
    v128.or(v128.eq<i8>(bytes, i8x16.splat(0x25)), v128.eq<i8>(bytes, i8x16.splat(0x26))),
  );
  return (v128.bitmask<i8>(marks) as u32) as u64;
}

/** The next byte that may begin an escape of more than white space, or `to`. */
function nextMark(from: usize, to: usize): usize {
  for (let at = from; at < to; at += 64) {
    let bits = escapeBits(at) | (escapeBits(at + 16) << 16) | (escapeBits(at + 32) << 32) | (escapeBits(at + 48) << 48);
    for (; bits !== 0; bits &= bits - 1) {
      const mark = at + (ctz(bits) as usize);
      if (mark >= to) return to;
      if (isWorthReading(mark)) return mark;
    }
  }
  return to;
}

/** Rejects most marks by the byte after them: operators of scripts, and line breaks in strings. */
// @ts-ignore: decorator
@inline
function isWorthReading(mark: usize): bool {
  const byte = load<u8>(mark);
  const next = load<u8>(mark, 1);
  if (byte === PERCENT) return hexOf(next) >= 0;
  if (byte === AMPERSAND) return next === 0x23 || (hasSemicolon(mark) && next !== AMPERSAND);
  return next !== 0x6e && next !== 0x72 && next !== 0x74;
}

/** Tells whether an entity may end. Names of characters in the table have at most eight letters. */
// @ts-ignore: decorator
@inline
function hasSemicolon(mark: usize): bool {
  return (v128.bitmask<i8>(v128.eq<i8>(v128.load(mark), i8x16.splat(0x3b))) & 0x7ff) !== 0;
}

/** Where the escape ends that {@link escaped} read. */
let escapeEnd: usize;

/** Reads a number in hexadecimal digits. @returns -1 if there are fewer than `least` */
function number(at: usize, to: usize, least: u32, most: u32): i32 {
  let value: i32 = 0;
  let count: u32 = 0;
  while (count < most && at < to) {
    const digit = hexOf(load<u8>(at));
    if (digit < 0) break;
    value = (value << 4) | digit;
    count++;
    at++;
  }
  escapeEnd = at;
  return count < least ? -1 : value;
}

/** The character (code point; of percent-encoding, byte) that is escaped at a place, or -1. */
function escaped(at: usize, to: usize): i32 {
  const mark = load<u8>(at);
  if (mark === PERCENT) return number(at + 1, to, 2, 2);
  return mark === BACKSLASH ? afterBackslash(at, to) : entity(at, to);
}

function afterBackslash(at: usize, to: usize): i32 {
  let next = at + 1;
  while (next < to && load<u8>(next) === BACKSLASH) next++;
  if (next > at + 2) hasSeveral = true;
  // Strings in strings double their backslashes, so this character is read again in what was decoded.
  if (next > at + 1 && !isGreedy) {
    escapeEnd = at + 2;
    return BACKSLASH;
  }
  if (next >= to) return -1;
  const letter = load<u8>(next);
  const code = letter === 0x78 ? number(next + 1, to, 2, 2) : letter === 0x75 ? unit(next + 1, to) : -1;
  if (code >= 0) return code;
  if (next > at + 1) {
    // Two backslashes are one, unless they precede a quote in a string in a string.
    escapeEnd = at + 2;
    if (letter === 0x22 || letter === 0x27 || letter === 0x2f) {
      escapeEnd = next + 1;
      return letter;
    }
    return BACKSLASH;
  }
  escapeEnd = next + 1;
  if (letter === 0x6e) return 0x0a;
  if (letter === 0x72) return 0x0d;
  if (letter === 0x74) return 0x09;
  if (letter >= 0x30 && letter <= 0x39) {
    // Style sheets end the number with white space.
    const code = number(next, to, 1, 6);
    if (escapeEnd < to && load<u8>(escapeEnd) === 0x20) escapeEnd++;
    return code;
  }
  const small = letter | 0x20;
  return small >= 0x61 && small <= 0x7a ? -1 : letter;
}

/** True if all backslashes before a character escape it together. Otherwise two of them are one. */
let isGreedy: bool;
/** True if an escape had three backslashes or more. */
let hasSeveral: bool;

/** The rest of `\\u`: four digits, or some in braces. */
function unit(at: usize, to: usize): i32 {
  if (at >= to || load<u8>(at) !== 0x7b) return number(at, to, 4, 4);
  const code = number(at + 1, to, 1, 6);
  if (escapeEnd >= to || load<u8>(escapeEnd) !== 0x7d) return -1;
  escapeEnd++;
  return code;
}

/** Named and numbered characters of markup. The table of names has for each: length, character, bytes; and ends with 0. */
function entity(at: usize, to: usize): i32 {
  if (at + 2 >= to) return -1;
  let code: i32 = -1;
  if (load<u8>(at + 1) === 0x23) {
    if ((load<u8>(at + 2) | 0x20) === 0x78) code = number(at + 3, to, 1, 6);
    else {
      let end = at + 2;
      code = 0;
      while (end < to && end < at + 9 && load<u8>(end) >= 0x30 && load<u8>(end) <= 0x39) {
        code = code * 10 + load<u8>(end) - 0x30;
        end++;
      }
      escapeEnd = end;
      if (end === at + 2) return -1;
    }
    if (escapeEnd >= to || load<u8>(escapeEnd) !== 0x3b) return -1;
    escapeEnd++;
    return code;
  }
  for (let name = names; load<u8>(name) !== 0; name += 2 + (load<u8>(name) as usize)) {
    const length = load<u8>(name) as usize;
    if (at + length + 2 > to || load<u8>(at + 1 + length) !== 0x3b || memory.compare(name + 2, at + 1, length) !== 0) continue;
    escapeEnd = at + length + 2;
    return load<u8>(name, 1);
  }
  return -1;
}

// @ts-ignore: decorator
@inline
function isTokenCharacter(code: i32): bool {
  return (
    (code >= 0x30 && code <= 0x39) || (code >= 0x41 && code <= 0x5a) || (code >= 0x61 && code <= 0x7a) ||
    code === 0x2d || code === 0x5f || code === 0x2b || code === 0x2f
  );
}

/** A token character, or one that is part of an escape: escapes may be escaped. */
// @ts-ignore: decorator
@inline
function isOfWriting(code: i32): bool {
  // \ % & # ; { }
  return (
    isTokenCharacter(code) || code === 0x5c || code === 0x25 || code === 0x26 || code === 0x23 || code === 0x3b ||
    code === 0x7b || code === 0x7d
  );
}

/** Writes a character as UTF-8. @returns where the next one goes */
function write(out: usize, code: i32): usize {
  if (code < 0x80) {
    store<u8>(out, code as u8);
    return out + 1;
  }
  if (code < 0x800) {
    store<u8>(out, (0xc0 | (code >> 6)) as u8);
    store<u8>(out, (0x80 | (code & 63)) as u8, 1);
    return out + 2;
  }
  store<u8>(out, (0xe0 | (code >> 12)) as u8);
  store<u8>(out, (0x80 | ((code >> 6) & 63)) as u8, 1);
  store<u8>(out, (0x80 | (code & 63)) as u8, 2);
  return out + 3;
}

/** Searches the next stretch with escapes, without them. @returns where to go on, or `to` */
function nextWriting(from: usize, start: usize, to: usize, depth: u32): usize {
  const mark = nextMark(from, to);
  if (mark >= to) return to;
  const code = escaped(mark, to);
  if (code <= 0x20) return code < 0 ? mark + 1 : escapeEnd;
  const next = escapeEnd;
  if (denseStride !== 0 || looseStride !== 0) return max(next, lookUnescaped(mark, start, to, depth));
  if (!isOfWriting(code)) return next;
  let at = mark;
  while (at > start && mark - at < OVERLAP && isTokenCharacter(load<u8>(at - 1))) at--;
  return max(next, lookInWriting(at, to, depth));
}

/** A run in which some characters are escaped. */
function lookInWriting(from: usize, to: usize, depth: u32): usize {
  const buffer = bufferOf(depth);
  let out = buffer;
  let at = from;
  let again: usize = 0;
  while (at < to && out - buffer < REGION) {
    if (again === 0 && out - buffer > OVERLAP) again = at;
    const byte = load<u8>(at);
    if (isTokenCharacter(byte)) {
      store<u8>(out, byte);
      out++;
      at++;
      continue;
    }
    if (byte !== BACKSLASH && byte !== PERCENT && byte !== AMPERSAND) break;
    const code = escaped(at, to);
    if (code < 0 || !isOfWriting(code)) break;
    out = write(out, code);
    at = escapeEnd;
  }
  if (depth === 0) aim(from, at);
  look(buffer, out, depth + 1);
  return out - buffer >= REGION && again > from ? again : max(at, from + 1);
}

/** Marks of escapes, as a set. */
const IS_BACKSLASH: u32 = 1;
const IS_PERCENT: u32 = 2;
const IS_AMPERSAND: u32 = 4;
const ANY: u32 = 7;

// @ts-ignore: decorator
@inline
function syntaxOf(byte: u8): u32 {
  return byte === BACKSLASH ? IS_BACKSLASH : byte === PERCENT ? IS_PERCENT : byte === AMPERSAND ? IS_AMPERSAND : 0;
}

/** Bytes before an escape that are searched with it: a value in a window that has the escape. */
const BEFORE: usize = 256;

/**
 * A stretch without white space around an escape, as windows may be anywhere in it: with the escapes of one syntax decoded, and with
 * all of them if there are several. A value may have text that only another syntax would decode.
 */
function lookUnescaped(mark: usize, start: usize, to: usize, depth: u32): usize {
  let from = mark;
  while (from > start && mark - from < BEFORE && (load<u8>(from - 1) > 0x20 || looseStride !== 0)) from--;
  const syntax = syntaxOf(load<u8>(mark));
  hasSeveral = false;
  let next = lookWithout(syntax, from, to, depth);
  // White space before the mark may be escaped too.
  while (next <= mark) {
    from = max(next + 1, escapeEnd);
    next = lookWithout(syntax, min(from, mark), to, depth);
  }
  const others = otherMarks;
  if (hasSeveral) {
    isGreedy = true;
    lookWithout(IS_BACKSLASH, min(from, mark), to, depth);
    isGreedy = false;
  }
  if (others === 0) return next;
  lookWithout(ANY, from, to, depth);
  if ((others & IS_BACKSLASH) !== 0) lookWithout(IS_BACKSLASH, from, to, depth);
  if ((others & IS_PERCENT) !== 0) lookWithout(IS_PERCENT, from, to, depth);
  if ((others & IS_AMPERSAND) !== 0) lookWithout(IS_AMPERSAND, from, to, depth);
  return next;
}

/** Marks of the last stretch whose escapes were not decoded, as a set. */
let otherMarks: u32;

/** @param syntaxes set of the syntaxes that are decoded */
function lookWithout(syntaxes: u32, from: usize, to: usize, depth: u32): usize {
  const buffer = bufferOf(depth);
  let out = buffer;
  let at = from;
  let others: u32 = 0;
  let hasMarks = false;
  // Where the next stretch begins, if this one is cut.
  let again: usize = 0;
  while (at < to && out - buffer < REGION) {
    if (again === 0 && out - buffer >= REGION - BEFORE) again = at;
    const byte = load<u8>(at);
    if (byte <= 0x20 && looseStride === 0) break;
    const syntax = syntaxOf(byte);
    others |= syntax & ~syntaxes;
    const code = (syntax & syntaxes) !== 0 ? escaped(at, to) : -1;
    if (code < 0) {
      store<u8>(out, byte);
      out++;
      at++;
      continue;
    }
    if (code <= 0x20 && looseStride === 0) break;
    hasMarks = hasMarks || code === 0x5c || code === 0x25 || code === 0x26;
    // The character after a backslash may itself begin an escape, of a value with that backslash.
    if (byte === BACKSLASH) others |= syntaxOf(load<u8>(at, 1)) & ~syntaxes;
    if (byte === PERCENT) {
      store<u8>(out, code as u8);
      out++;
    } else out = write(out, code);
    at = escapeEnd;
  }
  if (depth === 0) aim(from, at);
  if (looseStride !== 0 || hasDigit(buffer, out)) {
    probeElsewhere(buffer, out);
    lookNested(buffer, out, depth + 1, hasMarks);
  }
  otherMarks = others;
  return at < to && again > from ? again : at;
}

/** Searches decoded text for more that is encoded; without escapes, it has nothing new but runs. @param hasMarks whether escapes were escaped */
function lookNested(from: usize, to: usize, depth: u32, hasMarks: bool): void {
  for (let at = nextRun(from, to); at < to; at = nextRun(runEnd, to)) lookInRun(at, to, depth);
  if (!hasMarks || depth >= DEEPEST) return;
  for (let at = from; at < to; ) at = nextWriting(at, from, to, depth);
}

// @ts-ignore: decorator
@inline
function zeroBits(at: usize): u64 {
  return (v128.bitmask<i8>(v128.eq<i8>(v128.load(at), i8x16.splat(0))) as u32) as u64;
}

/** Searches the next text in UTF-16: every second byte is 0. @returns where to go on, or `to` */
function nextPair(from: usize, start: usize, to: usize, depth: u32): usize {
  for (let at = from; at < to; at += 64) {
    const zeros = zeroBits(at) | (zeroBits(at + 16) << 16) | (zeroBits(at + 32) << 32) | (zeroBits(at + 48) << 48);
    if (zeros === 0) continue;
    const alternate = zeros & ~(zeros >> 1) & (zeros >> 2) & ~(zeros >> 3) & (zeros >> 4);
    if (alternate === 0) continue;
    const zero = at + (ctz(alternate) as usize);
    return zero >= to ? to : lookInPairs(zero, start, to, depth);
  }
  return to;
}

function lookInPairs(zero: usize, start: usize, to: usize, depth: u32): usize {
  let first = zero;
  while (first >= start + 2 && zero - first < 2 * OVERLAP && load<u8>(first - 2) === 0 && load<u8>(first - 1) !== 0) first -= 2;
  const buffer = bufferOf(depth);
  let out = buffer;
  const from = first > start && load<u8>(first - 1) !== 0 ? first - 1 : first + 1;
  let at = from;
  while (at < to && load<u8>(at) !== 0 && out - buffer < REGION) {
    store<u8>(out, load<u8>(at));
    out++;
    if (at + 1 >= to || load<u8>(at + 1) !== 0) {
      at++;
      break;
    }
    at += 2;
  }
  if (depth === 0) aim(from, min(at, to));
  look(buffer, out, depth + 1);
  return max(min(at, to), zero + 1);
}

/** Bits of digits, commas and white space. Each half of a byte selects a set of bits; a character has a bit in both. */
// @ts-ignore: decorator
@inline
function listBits(at: usize): u64 {
  const bytes = v128.load(at);
  const byLower = i8x16(6, 4, 4, 4, 4, 4, 4, 4, 4, 5, 1, 0, 2, 1, 0, 0);
  const byUpper = i8x16(1, 0, 2, 4, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0);
  const low = v128.and(bytes, i8x16.splat(15));
  const high = v128.and(v128.shr<u16>(bytes, 4), i8x16.splat(15));
  const both = v128.and(v128.swizzle(byLower, low), v128.swizzle(byUpper, high));
  return (v128.bitmask<i8>(v128.ne<i8>(both, i8x16.splat(0))) as u32) as u64;
}

// @ts-ignore: decorator
@inline
function commaBits(at: usize): u32 {
  return v128.bitmask<i8>(v128.eq<i8>(v128.load(at), i8x16.splat(0x2c)));
}

/** Searches the next list of numbers, as the codes of characters. @returns where to go on, or `to` */
function nextList(from: usize, to: usize, depth: u32): usize {
  for (let at = from; at < to; at += 32) {
    // Most white space is no list, and of most numbers neither.
    if ((digitBits(at) | digitBits(at + 16)) === 0 || (commaBits(at) | commaBits(at + 16)) === 0) continue;
    // A list of twelve numbers has more than 23 characters, so twelve of them are in one of two blocks.
    const bits = listBits(at) | (listBits(at + 16) << 16);
    const two = bits & (bits >> 1);
    const four = two & (two >> 2);
    const eight = four & (four >> 4);
    const starts = eight & (eight >> 4);
    if (starts === 0) continue;
    const first = at + (ctz(starts) as usize);
    return first >= to ? to : lookInList(first, from, to, depth);
  }
  return to;
}

// @ts-ignore: decorator
@inline
function isOfList(byte: u8): bool {
  return (byte >= 0x30 && byte <= 0x39) || byte === 0x2c || byte === 0x20 || (byte >= 0x09 && byte <= 0x0d);
}

function lookInList(inside: usize, from: usize, to: usize, depth: u32): usize {
  let first = inside;
  while (first > from && inside - first < REGION && isOfList(load<u8>(first - 1))) first--;
  const buffer = bufferOf(depth);
  let out = buffer;
  let at = first;
  let again: usize = 0;
  let value: i32 = -1;
  for (; at < to && out - buffer < REGION - OVERLAP; at++) {
    const byte = load<u8>(at);
    if (!isOfList(byte)) break;
    if (byte >= 0x30 && byte <= 0x39) {
      value = value < 0 ? byte - 0x30 : min(value * 10 + byte - 0x30, 0xffff);
    } else if (byte === 0x2c && value >= 0) {
      if (again === 0 && out - buffer > 128) again = at;
      out = write(out, value);
      value = -1;
    }
  }
  if (value >= 0) out = write(out, value);
  if (depth === 0) aim(first, at);
  look(buffer, out, depth + 1);
  return out - buffer >= REGION - OVERLAP && again > inside ? again : max(at, inside + 1);
}

// The passes over a text. Each reads up to 64 bytes after `to`, and returns `to`; or, if the buffer of hits is full, where to go on.

/** @param before number of hits before a step @returns whether the hits of the step did not fit; then they are taken back */
// @ts-ignore: decorator
@inline
function isFull(before: u32): bool {
  if (hitCount <= hitCap) return false;
  // A step with more hits than fit at all keeps the first ones.
  hitCount = before === 0 ? hitCap : before;
  return before !== 0;
}

/** Runs of token characters. */
export function tokens(at: usize, to: usize): usize {
  hitCount = 0;
  for (at = nextRun(at, to); at < to; ) {
    const start = at;
    const before = hitCount;
    lookInRun(at, to, 0);
    if (isFull(before)) return start;
    at = nextRun(runEnd, to);
  }
  return to;
}

/** Text with escapes. */
export function writings(at: usize, from: usize, to: usize): usize {
  hitCount = 0;
  while (at < to) {
    const start = at;
    const before = hitCount;
    at = nextWriting(at, from, to, 0);
    if (isFull(before)) return start;
  }
  return to;
}

/** Text in UTF-16. */
export function pairs(at: usize, from: usize, to: usize): usize {
  hitCount = 0;
  while (at < to) {
    const start = at;
    const before = hitCount;
    at = nextPair(at, from, to, 0);
    if (isFull(before)) return start;
  }
  return to;
}

/** Lists of numbers. */
export function numberLists(at: usize, to: usize): usize {
  hitCount = 0;
  while (at < to) {
    const start = at;
    const before = hitCount;
    at = nextList(at, to, 0);
    if (isFull(before)) return start;
  }
  return to;
}

/** Windows anywhere, as they are. */
export function probes(at: usize, to: usize): usize {
  hitCount = 0;
  if (denseStride === 0 && looseStride === 0) return to;
  while (at < to) {
    const before = hitCount;
    const stop = min(to, at + REGION);
    aim(at, stop);
    probeElsewhere(at, stop);
    if (isFull(before)) return at;
    if (stop === to) break;
    at = stop - LONGEST_WINDOW;
  }
  return to;
}
