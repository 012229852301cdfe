import { type Format, hasMark } from '../format.js';

/** Formats that are known by their marks, and that Adder does not open. */
function unreadable(name: string, mark: readonly number[]): Format {
  return {
    name,
    recognise: (head) => hasMark(head, mark),
    async *members() {
      yield { name: '', because: `is compressed (${name}), and Adder does not look inside` };
    },
  };
}

/** XZ, bzip2, 7z and RAR, by their own specifications. */
export const unopened: readonly Format[] = [
  unreadable('xz', [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0]),
  unreadable('bzip2', [0x42, 0x5a, 0x68]),
  unreadable('7z', [0x37, 0x7a, 0xbc, 0xaf, 0x27, 0x1c]),
  unreadable('rar', [0x52, 0x61, 0x72, 0x21, 0x1a, 0x07]),
];
