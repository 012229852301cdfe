/**
 * Validates a value. One file per form, one line in index.ts.
 *
 * A problem is a phrase that follows the variable's name ("has no scheme"). It never contains the value, which may be a
 * secret.
 */
export interface Form {
  /** The name in reports: `url`, `choice`. */
  name: string;
  /** The phrase that says what is wrong, or undefined when the text is valid. */
  problem(text: string): string | undefined;
  /** The same as an expression of JavaScript over `text`, for generated code. */
  valid: string;
  /** Measure that `min` and `max` bound: the text's length in characters, or the size of the number. */
  measure: 'length' | 'size';
  /** Type of a value after conversion. */
  type: { typescript: string; dart: string };
  /** The TypeScript type of the text itself, if it is narrower than `string`. */
  textType?: string;
  /** The form of a list's items. */
  of?: Form;
  /** An invented value, for messages and example files. */
  example: string;
  /** True if a compiler may fold the value away, so that its absence from an artifact says nothing. */
  foldable: boolean;
}
