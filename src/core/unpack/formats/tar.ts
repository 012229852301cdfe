import { pipeline, Readable } from 'node:stream';
import type { Extract, Header } from 'tar-stream';
import { type Format, hasMark, type Member, type Source } from '../format.js';

type HeaderWithOffset = Header & { byteOffset?: number };

/** Tar (POSIX.1-1988 ustar, and pax and GNU extensions). */
export const tar: Format = {
  name: 'tar',
  streams: true,
  recognise: (head) => hasMark(head, 'ustar', 257),
  async *members(source) {
    let number = 0;
    for await (const entry of await entriesOf(source)) {
      const { name, type, size = 0, byteOffset } = entry.header as HeaderWithOffset;
      number++;
      if (type === 'file' || type === 'contiguous-file') {
        const stored = byteOffset === undefined ? undefined : { offset: byteOffset, length: size };
        yield memberOf(source, name, size, entry as AsyncIterable<Uint8Array>, number, stored);
      }
      entry.resume();
    }
  },
};

/** Its bytes as they come; asked for again, from the beginning of the archive. */
function memberOf(
  source: Source,
  name: string,
  size: number,
  entry: AsyncIterable<Uint8Array>,
  number: number,
  stored: Member['stored'],
): Member {
  let isFirst = true;
  const chunks = () => {
    const bytes = isFirst ? entry : nthEntry(source, number);
    isFirst = false;
    return whole(bytes, size);
  };
  return { name, chunks, ...(stored && { stored }) };
}

/** @throws where fewer bytes come than the header says */
async function* whole(bytes: AsyncIterable<Uint8Array>, size: number): AsyncIterable<Uint8Array> {
  let read = 0;
  for await (const chunk of bytes) {
    read += chunk.length;
    yield chunk;
  }
  if (read < size) throw new Error('ends early');
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
