import type { RawFinding } from '../findings/finding.js';
import type { Position } from '../text/positions.js';

/** The forms of a reference with a word after its name, as POSIX shells have them (Shell Command Language, 2.6.2). */
export const operators = [':-', '-', ':+', '+', ':?', '?'] as const;
export type Operator = (typeof operators)[number];

export type TemplatePart =
  | { kind: 'text'; text: string }
  | { kind: 'reference'; name: string; operator?: Operator; word?: Template; offset: number };

/** A value as it is written: text, and references to other names, still to be expanded. */
export type Template = readonly TemplatePart[];

export type Quote = 'none' | 'single' | 'double';

/**
 * A stretch of an env file. The nodes of a file are contiguous and cover every byte, line ends included, so that writing
 * them gives the same file byte for byte. Offsets are in bytes, `end` excluded.
 */
export type EnvNode = { kind: 'blank' | 'comment' | 'broken'; start: number; end: number } | EnvEntry;

export interface EnvEntry {
  kind: 'entry';
  start: number;
  end: number;
  name: string;
  nameStart: number;
  exported: boolean;
  quote: Quote;
  value: Template;
  /** The value's position, quotes included. */
  valueStart: number;
  valueEnd: number;
}

/** A finding about a stretch of the file. Its facts hold no part of a value. */
export interface EnvProblem extends RawFinding {
  /** The name on that line, if one could be read. */
  name?: string;
  start: Position;
  end: Position;
}

export interface EnvFile {
  bytes: Uint8Array;
  nodes: readonly EnvNode[];
  entries: readonly EnvEntry[];
  /** The names that its valid lines set. */
  names: ReadonlySet<string>;
  problems: readonly EnvProblem[];
  /** Line and column of a byte offset. */
  at(offset: number): Position;
  /** A line without its end, from 1. */
  lineText(line: number): string;
}
