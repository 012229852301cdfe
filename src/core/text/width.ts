import unicodeWidth from 'fast-string-width';

/** ASCII, dashes, quotes, the ellipsis, arrows and box drawing: each character takes one cell. */
const singleCells = /^[\x20-\x7e\u2010-\u2027\u2190-\u21ff\u2500-\u257f]*$/;

/**
 * Width of a text in terminal cells; wide characters take two, colours none. Skips the package for most texts: compiling its Unicode
 * expressions takes longer than printing a table.
 */
export default function cells(text: string): number {
  return singleCells.test(text) ? text.length : unicodeWidth(text);
}
