/**
 * Containers whose contents are not readable as they lie there, by their first bytes: their own specifications say which.
 * Brotli has no mark, so its usual ending has to do.
 */
const marks: readonly { name: string; bytes: readonly number[] }[] = [
  { name: 'zip', bytes: [0x50, 0x4b, 0x03, 0x04] },
  { name: 'gzip', bytes: [0x1f, 0x8b] },
  { name: 'zstd', bytes: [0x28, 0xb5, 0x2f, 0xfd] },
  { name: 'xz', bytes: [0xfd, 0x37, 0x7a, 0x58, 0x5a] },
  { name: 'bzip2', bytes: [0x42, 0x5a, 0x68] },
  { name: '7z', bytes: [0x37, 0x7a, 0xbc, 0xaf] },
];

/** The name of the compression that hides a file's contents from a search of its bytes. */
export function compressionOf(head: Uint8Array, path: string): string | undefined {
  const mark = marks.find(({ bytes }) => bytes.every((byte, index) => head[index] === byte));
  return mark?.name ?? (path.endsWith('.br') ? 'brotli' : undefined);
}
