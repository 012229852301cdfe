/**
 * One way in which a build writes a value. One file an encoding, one line in index.ts.
 */
export interface Encoding {
  /** As findings name it. */
  name: string;
  /** How the text `ä"/` looks in it, for the docs. */
  example: string;
  /**
   * Byte strings of which the encoder's output contains at least one, whatever surrounds the value. A text means its bytes in
   * UTF-8. Duplicates are allowed.
   */
  encode(value: string): Iterable<string | Uint8Array>;
}
