import { pipeline, Readable } from 'node:stream';
import type { Extract, Header } from 'tar-stream';
import { type Format, hasMark, type Member, type Source, type Unreadable } from '../format.js';

type HeaderWithOffset = Header & { byteOffset?: number };

/** Tar (POSIX.1-1988 ustar, and pax and GNU extensions). */
export const tar: Format = {
  name: 'tar',
  recognise: (head) => hasMark(head, 'ustar', 257),
  async *members(source) {
    let number = 0;
    for await (const entry of await entriesOf(source)) {
      const { name, type, size = 0, byteOffset } = entry.header as HeaderWithOffset;
      entry.resume();
      number++;
      if (type !== 'file' && type !== 'contiguous-file') continue;
      const stored = byteOffset === undefined ? {} : { stored: { offset: byteOffset, length: size } };
      yield memberOf(source, name, stored, number);
    }
  },
};

/** A member is read from where it stands; where that is not known, from the beginning of the archive. */
function memberOf(
  source: Source,
  name: string,
  { stored }: Pick<Member, 'stored'>,
  number: number,
): Member | Unreadable {
  if (!stored) return { name, chunks: () => nthEntry(source, number) };
  if (stored.offset + stored.length > source.size) return { name, because: 'is cut off' };
  return { name, stored, chunks: () => stretch(source, stored.offset, stored.length) };
}

/** The reader is loaded where the first archive is met. */
async function entriesOf(source: Source): Promise<Extract> {
  const { extract } = await import('tar-stream');
  const all = extract();
  pipeline(Readable.from(source.chunks(), { objectMode: false }), all, () => {
    // What went wrong comes to whoever reads the entries.
  });
  return all;
}

async function* nthEntry(source: Source, wanted: number): AsyncIterable<Uint8Array> {
  let number = 0;
  for await (const entry of await entriesOf(source)) {
    if (++number < wanted) entry.resume();
    else {
      yield* entry as AsyncIterable<Uint8Array>;
      return;
    }
  }
}

const CHUNK = 256 * 1024;

/** Part of a source that stands in it as it is. */
export async function* stretch(source: Source, offset: number, length: number): AsyncIterable<Uint8Array> {
  for (let at = offset; at < offset + length; ) {
    const piece = source.read(at, Math.min(CHUNK, offset + length - at));
    if (piece.length === 0) throw new Error('ends early');
    yield piece;
    at += piece.length;
  }
}
