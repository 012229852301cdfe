/** A range of bytes. `to` is excluded. */
export interface Window {
  from: number;
  to: number;
}

/** A range of a stream, and its bytes. */
export interface Stretch {
  from: number;
  bytes: Uint8Array;
}

/** An empty stretch for the bytes of a window. */
export function stretchFor({ from, to }: Window): Stretch {
  return { from, bytes: new Uint8Array(to - from) };
}

export function endOf({ from, bytes }: Stretch): number {
  return from + bytes.length;
}

/** Copies the bytes that a chunk and a stretch share. @param at offset of the chunk in the stream */
export function fill(stretch: Stretch, chunk: Uint8Array, at: number): void {
  const { from, bytes } = stretch;
  const first = Math.max(from, at);
  const end = Math.min(endOf(stretch), at + chunk.length);
  if (first < end) bytes.set(chunk.subarray(first - at, end - at), first - from);
}

/** Bytes of a stretch from an offset in it on. @param to may be outside of it */
export function partOf({ from: start, bytes }: Stretch, from: number, to: number): Uint8Array {
  return bytes.subarray(from - start, Math.max(from, to) - start);
}
