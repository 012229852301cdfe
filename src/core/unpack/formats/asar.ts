import { type ByteSource, type Format, hasMark, type Member, piecesOf, type Unreadable } from '../format.js';

/** A header is read into memory; its length is in it. */
const LARGEST_HEADER = 64 * 2 ** 20;

/**
 * The archive of desktop web shells: four 32-bit numbers (the size of the first, of the header's frame, of its text's frame,
 * of its text), the header in JSON, then the files one after the other. Files next to the archive are not members.
 */
export const asar: Format = {
  name: 'asar',
  firstBytes: [4],
  recognise: (head) => hasMark(head, [4, 0, 0, 0]) && hasMark(head, '{"files":', 16),
  async *members(source) {
    const [, frame = 0, , length = 0] = numbersOf(source.read(0, 16));
    if (length > LARGEST_HEADER || 16 + length > source.size) throw new Error('a header longer than the archive');
    const header: unknown = JSON.parse(Buffer.from(source.read(16, length)).toString());
    yield* filesOf(header, '', 8 + frame, source);
  },
};

function numbersOf(bytes: Uint8Array): number[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return [0, 4, 8, 12].map((at) => view.getUint32(at, true));
}

function* filesOf(node: unknown, path: string, base: number, source: ByteSource): Iterable<Member | Unreadable> {
  const { files } = (node ?? {}) as { files?: Record<string, unknown> };
  if (!files || typeof files !== 'object') return;
  for (const [name, inner] of Object.entries(files)) {
    const full = path === '' ? name : `${path}/${name}`;
    const { size, offset, unpacked, link } = (inner ?? {}) as Record<string, unknown>;
    if (link !== undefined || unpacked === true) continue;
    if (size === undefined) yield* filesOf(inner, full, base, source);
    else yield fileOf(full, base + Number(offset), Number(size), source);
  }
}

function fileOf(name: string, offset: number, length: number, source: ByteSource): Member | Unreadable {
  const isInside = Number.isSafeInteger(offset) && length >= 0 && offset >= 0 && offset + length <= source.size;
  if (!isInside) return { name, because: 'has its content outside the archive' };
  return { name, stored: { offset, length }, chunks: () => fileBytes(source, offset, length) };
}

/** @throws if the archive ends before the file does */
async function* fileBytes(source: ByteSource, offset: number, length: number): AsyncIterable<Uint8Array> {
  let read = 0;
  for (const piece of piecesOf(source, offset, offset + length)) {
    read += piece.length;
    yield piece;
  }
  if (read < length) throw new Error('ends early');
}
