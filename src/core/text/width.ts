import unicodeWidth from 'fast-string-width';

/** ASCII, dashes, quotes, the ellipsis, arrows and lines: each takes one cell. */
const narrow = /^[\x20-\x7e\u2010-\u2027\u2190-\u21ff\u2500-\u257f]*$/;

/**
 * How many cells of a terminal a text takes. The expressions for all of Unicode take longer to compile than a table takes to print, and
 * most texts need none of them.
 */
export default function textWidth(text: string): number {
  return narrow.test(text) ? text.length : unicodeWidth(text);
}
