import { displayText } from './display.js';

/** One masked source line. `column` (from 1) and `length` are UTF-16 code units of `text`. */
export interface Excerpt {
  line: number;
  text: string;
  column: number;
  length: number;
}

/** Most characters of an excerpt; a printer with less room cuts it again. */
const KEPT_WIDTH = 160;

/**
 * The part of a line around a column, as an {@link Excerpt}. `text` must be masked already.
 * @param width maximum number of characters, including the `…` marks
 */
export function excerptOf(line: number, text: string, column: number, length: number, width = KEPT_WIDTH): Excerpt {
  if (text.length <= width) return { line, text, column, length: clampLength(text, column, length) };
  const room = Math.max(8, width - 2);
  const from = Math.floor(Math.max(0, Math.min(column - 1 - room / 3, text.length - room)));
  const before = from > 0 ? '…' : '';
  const after = from + room < text.length ? '…' : '';
  const shown = before + text.slice(from, from + room) + after;
  const at = column - from + before.length;
  return { line, text: shown, column: at, length: clampLength(shown, at, length) };
}

function clampLength(text: string, column: number, length: number): number {
  return Math.max(1, Math.min(length, text.length - column + 1));
}

/**
 * The excerpt as two lines of text, the second with carets under the place.
 * @param width measures text in terminal cells
 */
export function renderFrame(excerpt: Excerpt, width: (text: string) => number): [string, string] {
  const number = String(excerpt.line);
  const shown = displayText(excerpt.text);
  const before = displayText(excerpt.text.slice(0, excerpt.column - 1));
  const under = displayText(excerpt.text.slice(excerpt.column - 1, excerpt.column - 1 + excerpt.length));
  const caret = ' '.repeat(width(before)) + '^'.repeat(Math.max(1, width(under)));
  return [`${number} | ${shown}`, `${' '.repeat(number.length)}   ${caret}`];
}
