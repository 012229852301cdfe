import type { Member, Source } from './format.js';

/** What stands before the content of a data: URI in base64 (RFC 2397): it is looked for with the needles. */
export const DATA_URI_MARK: Uint8Array = Buffer.from(';base64,');

/** A media type with its parameters is not longer. */
const LONGEST_TYPE = 200;
const CHUNK = 256 * 1024;

/**
 * A data: URI in a text as a member of it, named by its media type and where it begins.
 * @param mark offset of {@link DATA_URI_MARK}
 * @param mostBytes of the content as it stands
 * @returns undefined where what stands there is none
 */
export function dataUriAt(source: Source, mark: number, mostBytes: number): Member | undefined {
  const from = Math.max(0, mark - LONGEST_TYPE);
  const before = Buffer.from(source.read(from, mark - from)).toString('latin1');
  const [head, type] = /data:([\w.+/-]*)(?:;[\w.-]+=[^;,"'\s)]*)*$/.exec(before) ?? [];
  if (head === undefined) return undefined;
  const offset = mark + DATA_URI_MARK.length;
  const length = contentLength(source, offset, mostBytes);
  const stored = { offset, length };
  const bytes = () => Buffer.from(Buffer.from(source.read(offset, length)).toString('latin1'), 'base64');
  return {
    name: `data:${type || 'text/plain'}@${mark - head.length}`,
    stored,
    async *chunks() {
      yield bytes();
    },
  };
}

/** As far as signs of base64 go, of both alphabets. */
function contentLength(source: Source, offset: number, mostBytes: number): number {
  for (let at = offset; at < offset + mostBytes; at += CHUNK) {
    const text = Buffer.from(source.read(at, CHUNK)).toString('latin1');
    const length = /^[A-Za-z0-9+/_=-]*/.exec(text)?.[0].length ?? 0;
    if (length < CHUNK) return at + length - offset;
  }
  return mostBytes;
}
