/** Byte strings one after the other. Thousands of them as objects of their own take longer to make than to search for. */
export interface ByteStrings {
  bytes: Uint8Array;
  /** Where each begins, and after them where the last one ends. */
  starts: Uint32Array;
}

/** @param more byte strings after those of `first` */
export function byteStrings(more: readonly Uint8Array[], first: ByteStrings = none): ByteStrings {
  const known = countOf(first);
  const length = more.reduce((sum, one) => sum + one.length, first.bytes.length);
  const bytes = new Uint8Array(length);
  const starts = new Uint32Array(known + more.length + 1);
  bytes.set(first.bytes);
  starts.set(first.starts);
  let at = first.bytes.length;
  for (const [index, one] of more.entries()) {
    bytes.set(one, at);
    at += one.length;
    starts[known + index + 1] = at;
  }
  return { bytes, starts };
}

const none: ByteStrings = { bytes: new Uint8Array(0), starts: new Uint32Array(1) };

export function countOf({ starts }: ByteStrings): number {
  return starts.length - 1;
}

export function stringAt({ bytes, starts }: ByteStrings, index: number): Uint8Array {
  return bytes.subarray(starts[index], starts[index + 1]);
}

/** The lengths of the shortest and the longest one; Infinity and 0 if there is none. */
export function extremesOf({ starts }: ByteStrings): { shortest: number; longest: number } {
  let [shortest, longest] = [Number.POSITIVE_INFINITY, 0];
  for (let index = 1; index < starts.length; index++) {
    const length = (starts[index] as number) - (starts[index - 1] as number);
    if (length < shortest) shortest = length;
    if (length > longest) longest = length;
  }
  return { shortest, longest };
}
