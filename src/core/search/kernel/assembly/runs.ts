// Runs of token characters, as runs.ts describes them. 64 bytes at a time become a mask with a bit for each, and shifts of the
// mask find the runs: without a branch for each byte, which processors cannot predict.

const SHORTEST: u32 = 20;
const BLOCK: usize = 64;

const RUN: usize = 8;
let hits: usize;
let hitCap: u32;
let runCount: u32;
let kinds: usize;
let marks: usize;
let grams: usize;

const MARK_BITS: u32 = 16;
const ANY_MARK: u8 = 255;
const SIGN: u8 = 4;

export function placeRuns(hitsAt: usize, cap: u32, kindsAt: usize, marksAt: usize, gramsAt: usize): void {
  hits = hitsAt;
  hitCap = cap;
  kinds = kindsAt;
  marks = marksAt;
  grams = gramsAt;
}

// @ts-ignore: decorator
@inline
function isMark(at: usize): bool {
  const gram = load<u32>(at);
  const found = load<u8>(marks + (((gram * 0x9e3779b1) >>> (32 - MARK_BITS)) as usize));
  return found !== 0 && (found === ANY_MARK || load<u32>(grams + ((found as usize) - 1) * 4) === gram);
}

/** As `isOfInterest` in runs.ts. Most runs are names, which have no digits: only their marks are looked up. */
function isOfInterest(start: usize, end: usize): bool {
  if (isMark(start)) return true;
  let digits: u32 = 0;
  for (let at = start; at < end; at += 16) {
    const inRun = end - at < 16 ? ((1 as u32) << ((end - at) as u32)) - 1 : 0xffff;
    const bytes = v128.load(at);
    digits += popcnt(inRun & v128.bitmask<i8>(v128.lt<u8>(v128.sub<i8>(bytes, i8x16.splat(0x30)), i8x16.splat(10))));
    let signs = inRun & signBits(bytes);
    for (; signs !== 0; signs &= signs - 1) {
      const mark = at + (ctz(signs) as usize) + 1;
      if (mark + 4 <= end && isMark(mark)) return true;
    }
  }
  return digits >= 2 && isMixed(start, end);
}

// @ts-ignore: decorator
@inline
function signBits(bytes: v128): u32 {
  const dashes = v128.or(v128.eq<i8>(bytes, i8x16.splat(0x2d)), v128.eq<i8>(bytes, i8x16.splat(0x5f)));
  const others = v128.or(v128.eq<i8>(bytes, i8x16.splat(0x2b)), v128.eq<i8>(bytes, i8x16.splat(0x2f)));
  return v128.bitmask<i8>(v128.or(dashes, others));
}

/** Tells whether the kinds of characters change often. */
function isMixed(start: usize, end: usize): bool {
  let changes: u32 = 0;
  let letters: u32 = 0;
  let last: u8 = 0;
  for (let at = start; at < end; at++) {
    const kind = load<u8>(kinds + (load<u8>(at) as usize));
    if (kind === SIGN) continue;
    letters++;
    changes += ((kind !== last) as u32) & ((last !== 0) as u32);
    last = kind;
  }
  return changes * 4 >= letters;
}

/** A bit for each of 16 bytes: whether it is a token character. Each half of a byte selects a set of bits; a character has a bit in both. */
// @ts-ignore: decorator
@inline
export function tokenBits(at: usize): u64 {
  const bytes = v128.load(at);
  // Sets by the lower half: 1 for + - /, 2 for digits, 4 for @ to O and ` to o, 8 for P to _, 16 for p to DEL.
  const byLower = i8x16(26, 30, 30, 30, 30, 30, 30, 30, 30, 30, 28, 5, 4, 5, 4, 13);
  const byUpper = i8x16(0, 0, 1, 2, 4, 8, 4, 16, 0, 0, 0, 0, 0, 0, 0, 0);
  const low = v128.and(bytes, i8x16.splat(15));
  const high = v128.and(v128.shr<u16>(bytes, 4), i8x16.splat(15));
  const both = v128.and(v128.swizzle(byLower, low), v128.swizzle(byUpper, high));
  return (v128.bitmask<i8>(v128.ne<i8>(both, i8x16.splat(0))) as u32) as u64;
}

// @ts-ignore: decorator
@inline
export function tokenBitsOfBlock(at: usize): u64 {
  return tokenBits(at) | (tokenBits(at + 16) << 16) | (tokenBits(at + 32) << 32) | (tokenBits(at + 48) << 48);
}

/**
 * Runs of token characters, as `scanRuns` in runs.ts reports them. Reads up to 64 bytes after `to`.
 * @returns where the last run begins that may go on; or, if the buffer of hits is full, where to go on
 */
export function runs(at: usize, to: usize): usize {
  runCount = 0;
  // Number of token characters at the end of the previous block.
  let before: u32 = 0;
  while (at < to) {
    let bits = tokenBitsOfBlock(at);
    const rest = to - at;
    if (rest < BLOCK) bits &= ((1 as u64) << (rest as u64)) - 1;
    // A bit stays if the next 1, 3, 7, and 19 bits are set too.
    const two = bits & (bits >> 1);
    const four = two & (two >> 2);
    const starts = four & (four >> 4) & (four >> 8) & (four >> 12) & (four >> 16);
    const goesOn = before + (ctz(~bits) as u32) >= SHORTEST;
    if (starts === 0 && !goesOn) {
      if (rest <= BLOCK) return startOfLast(bits, rest, before, to);
      before = clz(~bits) as u32;
      at += BLOCK;
      continue;
    }
    const start = goesOn ? at - before : at + (ctz(starts) as usize);
    if (runCount === hitCap) return start;
    const end = endOf(goesOn ? at : start, to);
    if (isOfInterest(start, end)) {
      const run = hits + (runCount as usize) * RUN;
      store<u32>(run, start as u32);
      store<u32>(run, end as u32, 4);
      runCount++;
    }
    if (end === to) return start;
    at = end + 1;
    before = 0;
  }
  return at;
}

/** Where the run begins that the text ends with. */
// @ts-ignore: decorator
@inline
function startOfLast(bits: u64, rest: usize, before: u32, to: usize): usize {
  const length = clz(~(bits << ((BLOCK - rest) as u64))) as usize;
  return to - length - (length === rest ? before : 0);
}

export function endOf(start: usize, to: usize): usize {
  for (let at = start; at < to; at += 16) {
    const others = ~tokenBits(at) & 0xffff;
    if (others !== 0) return min(to, at + (ctz(others) as usize));
  }
  return to;
}

const AT: u8 = 0x40;
const COLON: u8 = 0x3a;
const SLASH: u8 = 0x2f;
const BACKSLASH: u8 = 0x5c;
const LONGEST_USER_INFO: usize = 256;

/**
 * User and password before the `@` of a URL, as `scanUserInfos` in runs.ts reports them, in the same buffer as runs. Reads up to 16 bytes
 * after `to`.
 * @param from where the text begins @returns `to`; or, if the buffer is full, where to go on
 */
export function userInfos(at: usize, from: usize, to: usize): usize {
  runCount = 0;
  for (; at < to; at += BLOCK) {
    const a = isAt(at);
    const b = isAt(at + 16);
    const c = isAt(at + 32);
    const d = isAt(at + 48);
    if (!v128.any_true(v128.or(v128.or(a, b), v128.or(c, d)))) continue;
    let signs = bitsOf(a) | (bitsOf(b) << 16) | (bitsOf(c) << 32) | (bitsOf(d) << 48);
    for (; signs !== 0; signs &= signs - 1) {
      const end = at + (ctz(signs) as usize);
      if (end >= to) return to;
      if (runCount === hitCap) return end;
      const start = userInfoBefore(end, from);
      if (start === 0) continue;
      const run = hits + (runCount as usize) * RUN;
      store<u32>(run, start as u32);
      store<u32>(run, end as u32, 4);
      runCount++;
    }
  }
  return to;
}

// @ts-ignore: decorator
@inline
function isAt(at: usize): v128 {
  return v128.eq<i8>(v128.load(at), i8x16.splat(AT));
}

// @ts-ignore: decorator
@inline
function bitsOf(lanes: v128): u64 {
  return (v128.bitmask<i8>(lanes) as u32) as u64;
}

/** Where the user begins that an `@` follows; 0 if there is none. */
function userInfoBefore(end: usize, from: usize): usize {
  const first = end - from > LONGEST_USER_INFO ? end - LONGEST_USER_INFO : from;
  let hasColon = false;
  for (let at = end; at > first; at--) {
    const byte = load<u8>(at - 1);
    if (byte === COLON) hasColon = true;
    else if (byte === SLASH) return hasColon && at < end && isAfterScheme(at - 1, from) ? at : 0;
    else if (endsUserInfo(byte)) return 0;
  }
  return 0;
}

// @ts-ignore: decorator
@inline
function endsUserInfo(byte: u8): bool {
  // White space, quotes, <, >, @, backslash, `, { and }.
  return byte <= 0x22 || byte === 0x27 || byte === 0x3c || byte === 0x3e || byte === AT || byte === BACKSLASH || byte === 0x60 || byte === 0x7b || byte === 0x7d;
}

/** Tells whether the slash at an offset ends `://`, also as JSON escapes it. */
function isAfterScheme(slash: usize, from: usize): bool {
  let at = slash;
  if (at > from && load<u8>(at - 1) === BACKSLASH) at--;
  if (at <= from || load<u8>(at - 1) !== SLASH) return false;
  at--;
  if (at > from && load<u8>(at - 1) === BACKSLASH) at--;
  return at > from && load<u8>(at - 1) === COLON;
}

export function foundRuns(): u32 {
  return runCount;
}
