// The matcher's kernel, in AssemblyScript: sampled grams, as in sampled-grams.ts, which is its twin and says how it works.
// The caller lays out the memory and tells where things are; see wasm.ts. Nothing here allocates.

const GRAM: u32 = 4;

/** First filter: a bit a slot. */
const FILTER: usize = 0x1_0000;
const FILTER_BITS: u32 = 21;

/** Second filter, under another multiplier: a bit a slot. */
const BITS: usize = FILTER + (1 << (FILTER_BITS - 3));
const BITS_BITS: u32 = 20;

/** Rarity of byte pairs in build output, see rarity.ts. */
const RARITY: usize = BITS + (1 << 17);

/** Where the caller says where everything else is. */
let needles: usize;
let offsets: usize;
let table: usize;
let tableMask: u32;
let tableShift: u32;
let windows: usize;
let lists: usize;
let windowCount: u32;
let longestList: u32;
let hits: usize;
let hitCap: u32;
let hitCount: u32;

// An entry of the table: gram, first window and 1, number of windows. A window: needle, offset in it, next window and 1; once all are
// in, a gram's windows are one after the other: needle, offset in it, and four more bytes of it, by which most candidates are rejected
// without a look at the needle.
const ENTRY: usize = 12;
const WINDOW: usize = 12;

/** Flags in a window's offset: the extra bytes precede the window instead of following it; the needle has no extra bytes. */
const BEFORE: u32 = 0x8000_0000;
const ALONE: u32 = 0x4000_0000;
const OFFSET: u32 = 0x3fff_ffff;
const HIT: usize = 8;

export function place(
  needlesAt: usize,
  offsetsAt: usize,
  tableAt: usize,
  mask: u32,
  windowsAt: usize,
  listsAt: usize,
  hitsAt: usize,
  cap: u32,
): void {
  needles = needlesAt;
  offsets = offsetsAt;
  table = tableAt;
  tableMask = mask;
  tableShift = clz(mask);
  windows = windowsAt;
  lists = listsAt;
  hits = hitsAt;
  hitCap = cap;
  windowCount = 0;
  longestList = 0;
}

// Multiplicative hashing (Knuth, The Art of Computer Programming, vol. 3, 6.4). The upper 16 bits select a word of the first filter,
// and the lower 5 a bit in it: those of the gram's first byte, which the upper ones hardly depend on.
// @ts-ignore: decorator
@inline
function hash(gram: u32): u32 {
  return gram * 0x9e3779b1;
}

// @ts-ignore: decorator
@inline
function wordOf(hash: u32): usize {
  return FILTER + (((hash >>> 14) & 0x3fffc) as usize);
}

/** The lowest bit is the gram's. */
// @ts-ignore: decorator
@inline
function filtered(gram: u32): u32 {
  const product = hash(gram);
  return rotl<u32>(load<u32>(wordOf(product)), product);
}

// @ts-ignore: decorator
@inline
function bit(gram: u32): u32 {
  return (gram * 0x85ebca6b) >>> (32 - BITS_BITS);
}

// @ts-ignore: decorator
@inline
function passes(gram: u32): bool {
  const at = bit(gram);
  return ((load<u8>(BITS + (at >>> 3)) >>> ((at & 7) as u8)) & 1) !== 0;
}

/** The entry of a gram, or the free one where it would go. */
function entryOf(gram: u32): usize {
  // The lower bits of the product depend only on the gram's first bytes, which are similar in text.
  let at = (gram * 0xc2b2ae35) >>> tableShift;
  let entry = table + (at as usize) * ENTRY;
  while (load<u32>(entry, 4) !== 0 && load<u32>(entry) !== gram) {
    at = (at + 1) & tableMask;
    entry = table + (at as usize) * ENTRY;
  }
  return entry;
}

// @ts-ignore: decorator
@inline
function startOf(needle: u32): usize {
  return needles + (load<u32>(offsets + (needle as usize) * 4) as usize);
}

// @ts-ignore: decorator
@inline
function lengthOf(needle: u32): u32 {
  const at = offsets + (needle as usize) * 4;
  return load<u32>(at, 4) - load<u32>(at);
}

function add(gram: u32, needle: u32, at: u32): void {
  const word = wordOf(hash(gram));
  store<u32>(word, load<u32>(word) | rotr<u32>(1, hash(gram)));
  const place = bit(gram);
  const byte = BITS + (place >>> 3);
  store<u8>(byte, load<u8>(byte) | (1 << ((place & 7) as u8)));
  const entry = entryOf(gram);
  const window = windows + (windowCount as usize) * WINDOW;
  windowCount++;
  store<u32>(window, needle);
  store<u32>(window, at, 4);
  store<u32>(window, load<u32>(entry, 4), 8);
  store<u32>(entry, gram);
  store<u32>(entry, windowCount, 4);
  const count = load<u32>(entry, 8) + 1;
  store<u32>(entry, count, 8);
  if (count > longestList) longestList = count;
}

// @ts-ignore: decorator
@inline
function bitsAt(index: u32): i32 {
  return ((load<u8>(RARITY + (index >>> 1)) as i32) >>> ((index & 1) * 4)) & 15;
}

/** Bits of information in four bytes. */
function rarity(at: usize): i32 {
  const a = load<u8>(at) as u32;
  const b = load<u8>(at, 1) as u32;
  const c = load<u8>(at, 2) as u32;
  const d = load<u8>(at, 3) as u32;
  return bitsAt(a) + bitsAt(256 + a * 256 + b) + bitsAt(256 + b * 256 + c) + bitsAt(256 + c * 256 + d);
}

/** Texts that many needles share are common in the input, however rare they seem: cost per needle, in these units. */
const CROWDED: u64 = 1 << 16;

/**
 * Cost of adding a window, in units of 2^-40 comparisons per probed offset. A window that is already in the tables matches as often as
 * its bytes occur, and makes its list longer; a new one is also hit by other bytes that share its slot. So the needles of one value
 * share windows where possible.
 */
function costOf(at: usize): u64 {
  const gram = load<u32>(at);
  const met = (1 as u64) << (40 - min(rarity(at), 40));
  // Most grams are new, and the filter says so from nearer memory than the table.
  const others = passes(gram) ? (load<u32>(entryOf(gram), 8) as u64) : 0;
  if (others === 0) return met + (1 << (40 - FILTER_BITS));
  return met * (others + 1) + CROWDED * others;
}

/** Puts one window of each residue class of each needle into the tables. */
export function build(count: u32, stride: u32): void {
  for (let needle: u32 = 0; needle < count; needle++) {
    const length = lengthOf(needle);
    const bytes = startOf(needle);
    for (let residue: u32 = 0; residue < stride; residue++) {
      if (residue + GRAM > length) {
        // One byte too short for this class: every byte that may stand after the needle goes in.
        const known = load<u32>(bytes + residue) & 0xffffff;
        for (let last: u32 = 0; last < 256; last++) add(known | (last << 24), needle, residue);
        continue;
      }
      if (residue + stride + GRAM > length) {
        // Only one window fits.
        add(load<u32>(bytes + residue), needle, residue);
        continue;
      }
      let best = residue;
      let least = u64.MAX_VALUE;
      for (let at = residue; at + GRAM <= length; at += stride) {
        const cost = costOf(bytes + at);
        if (cost < least) {
          least = cost;
          best = at;
        }
      }
      add(load<u32>(bytes + best), needle, best);
    }
  }
  gather();
}

export function found(): u32 {
  return hitCount;
}

function same(a: usize, b: usize, length: usize): bool {
  let at: usize = 0;
  for (; at + 8 <= length; at += 8) if (load<u64>(a + at) !== load<u64>(b + at)) return false;
  for (; at < length; at++) if (load<u8>(a + at) !== load<u8>(b + at)) return false;
  return true;
}

/** Stores the windows of each gram in one contiguous list, which `verify` reads sequentially. */
function gather(): void {
  let to = lists;
  for (let slot: u32 = 0; slot <= tableMask; slot++) {
    const entry = table + (slot as usize) * ENTRY;
    let index = load<u32>(entry, 4);
    if (index === 0) continue;
    store<u32>(entry, to as u32, 4);
    while (index !== 0) {
      const window = windows + ((index - 1) as usize) * WINDOW;
      index = load<u32>(window, 8);
      const needle = load<u32>(window);
      const at = load<u32>(window, 4);
      const bytes = startOf(needle) + (at as usize);
      store<u32>(to, needle);
      if (at + 2 * GRAM <= lengthOf(needle)) {
        store<u32>(to, at, 4);
        store<u32>(to, load<u32>(bytes, GRAM), 8);
      } else if (at >= GRAM) {
        store<u32>(to, at | BEFORE, 4);
        store<u32>(to, load<u32>(bytes - GRAM), 8);
      } else store<u32>(to, at | ALONE, 4);
      to += WINDOW;
    }
  }
}

/** Compares the candidate needles of a position with the text. */
function verify(gram: u32, at: usize, from: usize, to: usize, reported: usize): void {
  const entry = entryOf(gram);
  let window = load<u32>(entry, 4) as usize;
  if (window === 0) return;
  const end = window + (load<u32>(entry, 8) as usize) * WINDOW;
  const before = load<u32>(at - GRAM);
  const after = load<u32>(at, GRAM);
  for (; window < end; window += WINDOW) {
    const offset = load<u32>(window, 4);
    if (load<u32>(window, 8) === ((offset & BEFORE) !== 0 ? before : after) || (offset & ALONE) !== 0)
      compare(load<u32>(window), at - ((offset & OFFSET) as usize), from, to, reported);
  }
}

function compare(needle: u32, start: usize, from: usize, to: usize, reported: usize): void {
  const length = lengthOf(needle) as usize;
  const end = start + length;
  if (start < from || end > to || end <= reported || !same(startOf(needle), start, length)) return;
  const hit = hits + (hitCount as usize) * HIT;
  store<u32>(hit, needle);
  store<u32>(hit, start as u32, 4);
  hitCount++;
}

/**
 * Looks at every `stride`th offset of the text, four at a turn.
 * @param reported only what ends after it is a hit
 * @returns where to go on, where the buffer of hits is full; 0 at the end
 */
// @ts-ignore: decorator
@inline
function scan(stride: usize, at: usize, from: usize, to: usize, reported: usize): usize {
  // The last window may reach one byte after the text, where any byte will do.
  const last = to - 2;
  const room = hitCap - longestList * 4;
  hitCount = 0;
  for (; at + 3 * stride < last; at += 4 * stride) {
    const a = load<u32>(at);
    const b = load<u32>(at + stride);
    const c = load<u32>(at + 2 * stride);
    const d = load<u32>(at + 3 * stride);
    if (((filtered(a) | filtered(b) | filtered(c) | filtered(d)) & 1) !== 0) {
      if (hitCount > room) return at;
      if ((filtered(a) & 1) !== 0 && passes(a)) verify(a, at, from, to, reported);
      if ((filtered(b) & 1) !== 0 && passes(b)) verify(b, at + stride, from, to, reported);
      if ((filtered(c) & 1) !== 0 && passes(c)) verify(c, at + 2 * stride, from, to, reported);
      if ((filtered(d) & 1) !== 0 && passes(d)) verify(d, at + 3 * stride, from, to, reported);
    }
  }
  for (; at < last; at += stride) {
    if (hitCount > room) return at;
    const gram = load<u32>(at);
    if ((filtered(gram) & 1) !== 0 && passes(gram)) verify(gram, at, from, to, reported);
  }
  return 0;
}

// A stride that is known when this is compiled makes the loop a quarter faster.
export function scan8(at: usize, from: usize, to: usize, reported: usize): usize {
  return scan(8, at, from, to, reported);
}
export function scan4(at: usize, from: usize, to: usize, reported: usize): usize {
  return scan(4, at, from, to, reported);
}
export function scan2(at: usize, from: usize, to: usize, reported: usize): usize {
  return scan(2, at, from, to, reported);
}

export { foundRuns, placeRuns, runs, userInfos } from './runs';
export { addWindow, foundWindows, numberLists, pairs, placeWindows, probes, tokens, writings } from './windows';
