import { Compressed } from '../decompress.js';
import { type ByteSource, type Format, hasMark, type Member, memorySource, wholeOf } from '../format.js';
import { zlibCodec } from '../zlib.js';

const SIGNATURE = '\x89PNG\r\n\x1a\n';
/** Length and type before the data of a chunk, and its checksum after it. */
const [HEAD, CHECKSUM] = [8, 4];
/** Keywords and language tags before a text are shorter. */
const LONGEST_START = 512;

/** Where the compressed text of a chunk begins in its data, by the chunk's type; undefined if it is not compressed. */
const textStarts: Readonly<Record<string, (start: Buffer) => number | undefined>> = {
  // Keyword, NUL, method.
  zTXt: (start) => after(start, 0, 1),
  iCCP: (start) => after(start, 0, 1),
  // Keyword, NUL, whether it is compressed, method, language, NUL, translated keyword, NUL.
  iTXt(start) {
    const flag = after(start, 0, 0);
    if (flag === undefined || start[flag] !== 1) return undefined;
    const translated = after(start, flag + 2, 0);
    return translated === undefined ? undefined : after(start, translated, 0);
  },
};

/** Pictures (PNG, third edition, 11.3): their compressed texts are members, by where they begin. Other texts are searched as they are. */
export const png: Format = {
  name: 'PNG',
  firstBytes: [0x89],
  recognise: (head) => hasMark(head, SIGNATURE),
  async *members(source) {
    const random = source.isStream ? memorySource(await wholeOf(source.chunks())) : source;
    for (let at = SIGNATURE.length; at + HEAD <= random.size; ) {
      const head = Buffer.from(random.read(at, HEAD));
      if (head.length < HEAD) return;
      const [length, type] = [head.readUInt32BE(0), head.toString('latin1', 4)];
      const member = textIn(random, at + HEAD, length, type);
      if (member) yield member;
      at += HEAD + length + CHECKSUM;
    }
  },
};

function textIn(source: ByteSource, data: number, length: number, type: string): Member | undefined {
  const start = textStarts[type]?.(Buffer.from(source.read(data, Math.min(length, LONGEST_START))));
  if (start === undefined || start >= length) return undefined;
  const stored = { offset: data + start, length: length - start };
  return {
    name: `${type}@${stored.offset}`,
    stored,
    async *chunks() {
      const part = source.read(stored.offset, stored.length);
      yield* new Compressed(() => [part], part.length, zlibCodec).chunks();
    },
  };
}

/** The place after the NUL that follows an offset, and after some more bytes. */
function after(bytes: Buffer, from: number, more: number): number | undefined {
  const nul = bytes.indexOf(0, from);
  return nul < 0 ? undefined : nul + 1 + more;
}
