/** Four bytes as a signed 32-bit integer, little-endian. */
export function gramAt(bytes: Uint8Array, at: number): number {
  return (
    (bytes[at] as number) |
    ((bytes[at + 1] as number) << 8) |
    ((bytes[at + 2] as number) << 16) |
    ((bytes[at + 3] as number) << 24)
  );
}
