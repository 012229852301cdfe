import { embeddedStreams } from '../embedded-streams.js';
import { type Format, hasMark, isBinary } from '../format.js';

/** Fewer bytes have no meaningful entropy. */
const SHORTEST = 512;

/**
 * Bytes that look random and have no known format: compressed, encrypted or packed in a way that Adder does not know. A
 * value in them would not be found, so they are never clean.
 */
export const opaque: Format = {
  name: 'opaque',
  streams: true,
  recognise(head, _, { samples }) {
    const isDense = samples.filter((bytes) => bytes.length >= SHORTEST && isBinary(bytes) && looksRandom(bytes));
    return isDense.length > samples.length / 2 && !isMedia(head);
  },
  async *members(source) {
    yield* embeddedStreams(source);
    yield { name: '', because: 'looks compressed or encrypted, in an unknown format' };
  },
};

/**
 * Tells whether the entropy of bytes (Shannon, bits per byte) is near that of bytes drawn by chance, which in n bytes appears
 * smaller than 8 by (256 - 1) / (2 n ln 2) (Miller and Madow, 1955). Machine code has 6 to 6.6, text less than 6.
 */
export function looksRandom(bytes: Uint8Array): boolean {
  const counts = new Float64Array(256);
  for (const byte of bytes) counts[byte] = (counts[byte] as number) + 1;
  let entropy = 0;
  for (const count of counts) if (count > 0) entropy -= (count / bytes.length) * Math.log2(count / bytes.length);
  return entropy > 8 - 255 / (2 * bytes.length * Math.LN2) - TOLERANCE;
}

const TOLERANCE = 0.2;

/** Pictures, sound, film and fonts are dense, and hold no text in their dense parts. One line a family. */
const media: readonly (readonly [mark: string | readonly number[], at: number])[] = [
  [[0x89, 0x50, 0x4e, 0x47], 0], // PNG
  [[0xff, 0xd8, 0xff], 0], // JPEG
  ['GIF8', 0],
  ['RIFF', 0], // WebP, WAV, AVI
  ['ftyp', 4], // MP4, MOV, AVIF, HEIC
  [[0x1a, 0x45, 0xdf, 0xa3], 0], // WebM, Matroska
  ['OggS', 0],
  ['fLaC', 0],
  ['ID3', 0], // MP3
  [[0xff, 0xfb], 0],
  [[0xff, 0xf1], 0], // AAC
  ['wOFF', 0],
  ['wOF2', 0],
  ['glTF', 0],
  ['DRACO', 0],
  [[0xab, 0x4b, 0x54, 0x58], 0], // KTX
  ['icns', 0],
  [[0, 0, 1, 0], 0], // ICO
  ['8BPS', 0],
  [[0xff, 0x0a], 0], // JPEG XL
  [[0, 0, 0, 0x0c, 0x4a, 0x58, 0x4c, 0x20], 0],
  ['II*\0', 0], // TIFF
  ['MM\0*', 0],
];

export function isMedia(head: Uint8Array): boolean {
  return media.some(([mark, at]) => hasMark(head, mark, at));
}
