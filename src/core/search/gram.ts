/** Four bytes as one number, the first in its lowest bits, with a sign. */
export function gramAt(bytes: Uint8Array, at: number): number {
  return (
    (bytes[at] as number) |
    ((bytes[at + 1] as number) << 8) |
    ((bytes[at + 2] as number) << 16) |
    ((bytes[at + 3] as number) << 24)
  );
}
