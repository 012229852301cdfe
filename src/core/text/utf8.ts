/**
 * The offset of the first byte that no well-formed UTF-8 text could have there, or -1.
 * Source: The Unicode Standard, table 3-7, "Well-Formed UTF-8 Byte Sequences".
 */
export function firstInvalidUtf8(bytes: Uint8Array, start = 0, end = bytes.length): number {
  let at = start;
  while (at < end) {
    const length = sequenceLength(bytes, at, end);
    if (length === 0) return at;
    at += length;
  }
  return -1;
}

/**
 * Where UTF-16 offsets of a decoded text are in its bytes, bytes that are not UTF-8 included: a decoder makes one U+FFFD
 * of each longest beginning of a character (Encoding Standard, 4.1; The Unicode Standard, 3.9, U+FFFD substitution).
 * @param wanted offsets at the boundaries of characters
 */
export function byteOffsets(bytes: Uint8Array, wanted: ReadonlySet<number>): Map<number, number> {
  const found = new Map<number, number>();
  let at = 0;
  let units = 0;
  for (;;) {
    if (wanted.has(units)) found.set(units, at);
    if (at >= bytes.length || found.size === wanted.size) return found;
    const length = sequenceLength(bytes, at, bytes.length);
    units += length === 4 ? 2 : 1;
    at += length === 0 ? brokenLength(bytes, at) : length;
  }
}

/** How many bytes of an invalid sequence a decoder replaces with one U+FFFD. */
function brokenLength(bytes: Uint8Array, at: number): number {
  const lead = bytes[at] as number;
  const most = lead >= 0xc2 && lead <= 0xdf ? 2 : (lead & 0xf0) === 0xe0 ? 3 : lead >= 0xf0 && lead <= 0xf4 ? 4 : 1;
  const [low, high] = secondByteRange(lead);
  let length = 1;
  while (length < most && at + length < bytes.length) {
    const byte = bytes[at + length] as number;
    const fits = length === 1 ? byte >= low && byte <= high : (byte & 0xc0) === 0x80;
    if (!fits) break;
    length++;
  }
  return length;
}

function sequenceLength(bytes: Uint8Array, at: number, end: number): number {
  const lead = bytes[at] as number;
  if (lead < 0x80) return 1;
  const length = lead >= 0xc2 && lead <= 0xdf ? 2 : (lead & 0xf0) === 0xe0 ? 3 : lead >= 0xf0 && lead <= 0xf4 ? 4 : 0;
  if (length === 0 || at + length > end) return 0;
  const [low, high] = secondByteRange(lead);
  const second = bytes[at + 1] as number;
  if (second < low || second > high) return 0;
  for (let i = 2; i < length; i++) if (((bytes[at + i] as number) & 0xc0) !== 0x80) return 0;
  return length;
}

/** The second byte alone excludes overlong forms, surrogates and code points above U+10FFFF. */
function secondByteRange(lead: number): [number, number] {
  if (lead === 0xe0) return [0xa0, 0xbf];
  if (lead === 0xed) return [0x80, 0x9f];
  if (lead === 0xf0) return [0x90, 0xbf];
  if (lead === 0xf4) return [0x80, 0x8f];
  return [0x80, 0xbf];
}
