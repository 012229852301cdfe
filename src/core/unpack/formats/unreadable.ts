import { type Format, hasMark } from '../format.js';

/** Formats that are known by their marks, and that Adder does not open. */
function unreadable(
  name: string,
  mark: readonly number[],
  at = 0,
  fits: (head: Uint8Array) => boolean = () => true,
): Format {
  return {
    name,
    streams: true,
    ...(at === 0 && mark.length > 0 && { firstBytes: mark.slice(0, 1) }),
    recognise: (head) => hasMark(head, mark, at) && fits(head),
    async *members() {
      yield { name: '', because: `is ${name}, which Adder does not unpack` };
    },
  };
}

/** By their own specifications. */
export const unopened: readonly Format[] = [
  unreadable('xz', [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0]),
  unreadable(
    'bzip2',
    [0x42, 0x5a, 0x68],
    0,
    (head) => hasMark(head, '1AY&SY', 4) || hasMark(head, [0x17, 0x72, 0x45, 0x38, 0x50, 0x90], 4),
  ),
  unreadable('7z', [0x37, 0x7a, 0xbc, 0xaf, 0x27, 0x1c]),
  unreadable('rar', [0x52, 0x61, 0x72, 0x21, 0x1a, 0x07]),
  unreadable('lzma', [0x5d, 0, 0], 0, (head) => head[12] === 0 || head[12] === 0xff),
  unreadable('lzip', text('LZIP')),
  unreadable('lzop', [0x89, 0x4c, 0x5a, 0x4f, 0, 0x0d, 0x0a]),
  unreadable('lz4', [0x04, 0x22, 0x4d, 0x18]),
  unreadable('compress', [0x1f, 0x9d]),
  unreadable('snappy', [0xff, 0x06, 0, 0, ...text('sNaPpY')]),
  unreadable('lha', text('-lh'), 2, (head) => head[6] === 0x2d),
  unreadable('arj', [0x60, 0xea], 0, (head) => (head[2] ?? 0) > 25 && head[3] !== undefined && head[3] < 11),
  unreadable('cab', text('MSCF')),
  unreadable('wim', [...text('MSWIM'), 0, 0, 0]),
  unreadable('rpm', [0xed, 0xab, 0xee, 0xdb]),
  unreadable('xar', text('xar!')),
  unreadable('squashfs', text('hsqs')),
  unreadable('encrypted (age)', text('age-encryption.org/')),
  unreadable('encrypted (openssl)', text('Salted__')),
  {
    ...unreadable('dmg', []),
    recognise: (_, __, { tail }) => hasMark(tail, 'koly', tail.length - 512),
  },
];

function text(mark: string): number[] {
  return [...Buffer.from(mark, 'latin1')];
}
