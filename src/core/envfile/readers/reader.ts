import type { EnvEntry } from '../ast.js';

/** What another program makes of one line that Adder's grammar takes. */
export interface Reading {
  /**
   * The text that it gets, each reference that it expands as one {@link REFERENCE}; absent where it does not set the name.
   */
  text?: string;
  /** What it does otherwise, as phrases that go behind its name. They hold no part of a value. */
  differences: string[];
}

/** A program that reads env files by rules of its own. One file a reader, one line in index.ts. */
export interface Reader {
  /** As messages name it. */
  name: string;
  /** Whether people write env files with this reader's rules in mind, so that a difference is a surprise. */
  isExpected: boolean;
  /** @param line the entry's own text, which may span several lines */
  read(line: string, entry: EnvEntry): Reading;
}

/** Stands for a reference in the text of a reading: every reader that expands them gets the same. */
export const REFERENCE = '\u0000';

/** The text from the value's first sign to the end of the entry, and what stands before the name. */
export interface LineParts {
  exported: boolean;
  /** White space behind the `=`. */
  gap: string;
  value: string;
}

/** @param line an entry's own text */
export function partsOf(line: string): LineParts {
  const [head = '', exportWord, gap = ''] =
    /^[ \t\ufeff]*(export[ \t]+)?[A-Za-z_][A-Za-z0-9_]*[ \t]*=([ \t]*)/.exec(line) ?? [];
  return { exported: exportWord !== undefined, gap, value: line.slice(head.length) };
}
