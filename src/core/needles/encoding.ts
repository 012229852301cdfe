/**
 * One way in which a build writes a value. One file an encoding, one line in index.ts.
 */
export interface Encoding {
  /** As findings name it. */
  name: string;
  /** How the text `ä"/` looks in it, for the docs. */
  example: string;
  /**
   * Every byte string that the value may stand as; a text means its bytes in UTF-8. Whatever surrounds the value when the
   * encoder meets it, its output holds one of them. Duplicates are fine.
   */
  encode(value: string): Iterable<string | Uint8Array>;
}
