import { type Format, hasMark, type Member, piecesOf, type Unreadable } from '../format.js';

const HEADER = 60;

/** The archive of packages and static libraries (`ar`): headers of 60 bytes of text, each with its member after it. */
export const ar: Format = {
  name: 'ar',
  firstBytes: [0x21],
  recognise: (head) => hasMark(head, '!<arch>\n'),
  async *members(source) {
    for (let at = 8; at + HEADER <= source.size; ) {
      const header = Buffer.from(source.read(at, HEADER)).toString('latin1');
      const length = Number(header.slice(48, 58).trim());
      const isHeader = header.endsWith('`\n') && Number.isSafeInteger(length) && length >= 0;
      if (!isHeader || at + HEADER + length > source.size) throw new Error('no header');
      yield memberOf(header.slice(0, 16).trim().replace(/\/$/, ''), at + HEADER, length, source);
      // Members begin at even offsets.
      at += HEADER + length + (length % 2);
    }
  },
};

function memberOf(
  name: string,
  offset: number,
  length: number,
  source: Parameters<Format['members']>[0],
): Member | Unreadable {
  return {
    name: name === '' ? `member@${offset}` : name,
    stored: { offset, length },
    async *chunks() {
      yield* piecesOf(source, offset, offset + length);
    },
  };
}
