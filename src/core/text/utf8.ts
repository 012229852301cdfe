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

/** Overlong forms, surrogates and what lies beyond U+10FFFF are shut out by the second byte alone. */
function secondByteRange(lead: number): [number, number] {
  if (lead === 0xe0) return [0xa0, 0xbf];
  if (lead === 0xed) return [0x80, 0x9f];
  if (lead === 0xf0) return [0x90, 0xbf];
  if (lead === 0xf4) return [0x80, 0x8f];
  return [0x80, 0xbf];
}
