/** Finds a text in bytes that may have line breaks anywhere in it, literal or escaped as in a string. */
export function findAcrossLines(bytes: Uint8Array, wanted: string): { start: number; end: number } | undefined {
  const text = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
  const offsets: number[] = [];
  let unbroken = '';
  for (const { 0: kept, index } of text.matchAll(/(?!\\[rnt])[^\s]/g)) {
    if (/[rnt]/.test(kept) && text[index - 1] === '\\') continue;
    unbroken += kept;
    offsets.push(index);
  }
  const at = unbroken.indexOf(wanted);
  if (at < 0) return undefined;
  return { start: offsets[at] as number, end: (offsets[at + wanted.length - 1] as number) + 1 };
}
