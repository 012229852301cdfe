import { type ByteWindows, isTokenByte } from './byte-windows.js';
import { type DecodedText, decodedTexts } from './decoded.js';
import { sipHash } from './siphash.js';

/** A window in a text, as it is or decoded. */
export interface FoundWindow {
  owner: number;
  /** Where the window begins in the decoded bytes, and its length. */
  at: number;
  width: number;
  text: DecodedText;
}

/** The windows of a search by the lower halves of their hashes. */
export class WindowTable {
  readonly #byLow = new Map<number, number[]>();

  constructor(readonly windows: ByteWindows) {
    const { hashes } = windows;
    for (let at = 0; at < hashes.length; at += 3) {
      const low = hashes[at] as number;
      const known = this.#byLow.get(low);
      if (known) known.push(at);
      else this.#byLow.set(low, [at]);
    }
  }

  /** Owners of the window at a place. */
  ownersAt(bytes: Uint8Array, at: number, width: number): number[] {
    const { keys, hashes } = this.windows;
    const owners: number[] = [];
    for (let section = 0; section < keys.length; section += 16) {
      const [low, high] = sipHash(keys.subarray(section, section + 16), bytes, at, width);
      for (const index of this.#byLow.get(low) ?? [])
        if (hashes[index + 1] === high) owners.push(hashes[index + 2] as number);
    }
    return owners;
  }

  /** Finds all windows in a text and in what can be decoded in it. The text should be short. */
  *find(bytes: Uint8Array): Generator<FoundWindow> {
    const { strides, widths } = this.windows;
    const isPossible = strides.loose !== 0 ? isText : strides.dense !== 0 ? isVisible : isTokenByte;
    for (const text of decodedTexts(bytes)) {
      // Bytes at the end of the stretch so far in which a window may be.
      let possible = 0;
      for (let end = 0; end < text.bytes.length; end++) {
        possible = isPossible(text.bytes[end] as number) ? possible + 1 : 0;
        for (const width of widths)
          if (possible >= width) {
            const at = end + 1 - width;
            for (const owner of this.ownersAt(text.bytes, at, width)) yield { owner, at, width, text };
          }
      }
    }
  }
}

function isText(byte: number): boolean {
  return byte >= 0x20 || byte === 0x0a || byte === 0x0d || byte === 0x09;
}

function isVisible(byte: number): boolean {
  return byte > 0x20;
}
