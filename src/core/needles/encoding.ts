/**
 * One way in which a build writes a value. One file an encoding, one line in index.ts.
 */
export interface Encoding {
  /** The name in findings. */
  name: string;
  /** How the text `ä"/` looks in it, for the docs. */
  example: string;
  /**
   * Byte strings. The encoder's output contains at least one of them, in any surroundings. A string means its bytes in UTF-8.
   * Duplicates are allowed.
   */
  encode(value: string): Iterable<string | Uint8Array>;
}
