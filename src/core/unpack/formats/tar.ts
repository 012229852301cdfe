import { pipeline, Readable } from 'node:stream';
import type { Extract, Header } from 'tar-stream';
import { type ByteSource, type Format, hasMark, type Member } from '../format.js';

type HeaderWithOffset = Header & { byteOffset?: number };

/** Tar (POSIX.1-1988 ustar, pax and GNU extensions, and the seventh edition of Unix, which has no mark). */
export const tar: Format = {
  name: 'tar',
  streams: true,
  recognise: (head) => hasMark(head, 'ustar', 257) || isOldHeader(head),
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

/**
 * Recognises a header without a magic number by its checksum: the sum of its bytes, with spaces in the checksum field, which
 * ends with a space or zero.
 */
function isOldHeader(head: Uint8Array): boolean {
  if (head.length < 512 || head[0] === 0 || (head[154] as number) > 0x20) return false;
  // Rejects most files before the regular expression.
  for (let at = 148; at < 153; at++) if (!isOctal(head[at] as number)) return false;
  if (!/^[ 0-7]{5,7}[ \0]{1,3}$/.test(latin1(head, 148, 156))) return false;
  let sum = 8 * 0x20;
  for (let at = 0; at < 512; at++) if (at < 148 || at >= 156) sum += head[at] as number;
  return sum === Number.parseInt(latin1(head, 148, 156).trim(), 8);
}

function isOctal(byte: number): boolean {
  return byte === 0x20 || (byte >= 0x30 && byte <= 0x37);
}

function latin1(bytes: Uint8Array, start: number, end: number): string {
  return Buffer.from(bytes.subarray(start, end)).toString('latin1');
}

/** Its bytes as they come; asked for again, from the beginning of the archive. */
function memberOf(
  source: ByteSource,
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

/** @throws if there are fewer bytes than the header says */
async function* whole(bytes: AsyncIterable<Uint8Array>, size: number): AsyncIterable<Uint8Array> {
  let read = 0;
  for await (const chunk of bytes) {
    read += chunk.length;
    yield chunk;
  }
  if (read < size) throw new Error('ends early');
}

/** The reader is loaded with the first archive. */
async function entriesOf(source: ByteSource): Promise<Extract> {
  const { extract } = await import('tar-stream');
  const all = extract({ allowUnknownFormat: true } as Parameters<typeof extract>[0]);
  pipeline(Readable.from(source.chunks(), { objectMode: false }), all, () => {
    // The reader of the entries gets the error.
  });
  return all;
}

async function* nthEntry(source: ByteSource, wanted: number): AsyncIterable<Uint8Array> {
  let number = 0;
  for await (const entry of await entriesOf(source)) {
    if (++number < wanted) entry.resume();
    else {
      yield* entry as AsyncIterable<Uint8Array>;
      return;
    }
  }
}
