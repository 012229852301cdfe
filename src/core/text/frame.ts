import type { Excerpt } from '../findings/finding.js';
import { displayText } from './display.js';

/** Room for the line itself; a longer one is cut around its column. */
const FRAME_WIDTH = 84;

/** A line of a text around a column, cut to what fits, as an {@link Excerpt}. `text` must be masked already. */
export function excerptOf(line: number, text: string, column: number, length: number): Excerpt {
  const start = Math.max(0, Math.min(column - 1 - FRAME_WIDTH / 3, text.length - FRAME_WIDTH));
  const from = text.length > FRAME_WIDTH ? Math.floor(start) : 0;
  const piece = text.slice(from, from + FRAME_WIDTH);
  const before = from > 0 ? '…' : '';
  const after = from + piece.length < text.length ? '…' : '';
  const at = column - from + before.length;
  const room = Math.max(1, before.length + piece.length - at + 1);
  return { line, text: before + piece + after, column: at, length: Math.max(1, Math.min(length, room)) };
}

/**
 * The excerpt as two lines of text, the second with a caret under the place.
 * @param width measures text in terminal cells
 */
export function renderFrame(excerpt: Excerpt, width: (text: string) => number): [string, string] {
  const number = String(excerpt.line);
  const shown = displayText(excerpt.text);
  const before = displayText(excerpt.text.slice(0, excerpt.column - 1));
  const under = displayText(excerpt.text.slice(excerpt.column - 1, excerpt.column - 1 + excerpt.length));
  const caret = ' '.repeat(width(before)) + '^'.repeat(Math.max(1, width(under)));
  return [`${number} | ${shown}`, `${' '.repeat(number.length)} | ${caret}`];
}
