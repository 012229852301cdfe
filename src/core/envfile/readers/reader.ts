import type { EnvEntry, Template } from '../ast.js';

/** How another program understands a line that Adder's grammar accepts. */
export interface Reading {
  /** The text that it gets, each expanded reference as one {@link REFERENCE}; absent if it does not set the name. */
  text?: string;
  /** Differences from Adder, as phrases that follow the reader's name. They contain no part of a value. */
  differences: string[];
}

/** A program with its own rules for env files. One file per reader, one line in index.ts. */
export interface Reader {
  /** Its name in messages. */
  name: string;
  /** True if people write env files with this reader's rules in mind, so that a difference is a surprise. */
  isExpected: boolean;
  /** @param line the entry's own text, which may span several lines */
  read(line: string, entry: EnvEntry): Reading;
}

/** Replaces a reference in the text of a reading, because all readers that expand references get the same. */
export const REFERENCE = '\u0000';

/** A value in which each reference is one character, as in readings. */
export function flatten(template: Template): string {
  return template.map((part) => (part.kind === 'text' ? part.text : REFERENCE)).join('');
}

/** The text from the value's first character to the end of the entry, and the text before the name. */
export interface LineParts {
  exported: boolean;
  /** White space after the `=`. */
  gap: string;
  value: string;
}

/** @param line an entry's own text */
export function partsOf(line: string): LineParts {
  const [head = '', exportWord, gap = ''] =
    /^[ \t\ufeff]*(export[ \t]+)?[A-Za-z_][A-Za-z0-9_]*[ \t]*=([ \t]*)/.exec(line) ?? [];
  return { exported: exportWord !== undefined, gap, value: line.slice(head.length) };
}
