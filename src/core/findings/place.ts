import { displayText } from '../text/display.js';
import type { Position } from '../text/positions.js';
import type { Place } from './finding.js';

/** A file, or a piece of a file inside containers, as {@link Place} names it. */
export type Where = Pick<Place, 'path'> & Partial<Pick<Place, 'inside'>>;

/** The place of everything between two positions of one text. The only function that makes a place from a span. */
export function placeBetween({ path, inside = [] }: Where, start: Position, end: Position): Place {
  const { line, column, offset } = start;
  return { path, inside, line, column, endLine: end.line, endColumn: end.column, offset, length: end.offset - offset };
}

/** The place of a name or other ASCII word, from its start. */
export function placeOfWord(where: Where, start: Omit<Position, 'offset'> & { offset?: number }, word: string): Place {
  const { path, inside = [] } = where;
  const { line, column, offset } = start;
  const span = { line, column, endLine: line, endColumn: column + word.length };
  return { path, inside, ...span, ...(offset !== undefined && { offset, length: word.length }) };
}

/** `web/dist/a.zip » b.js:3:14` */
export function placeText({ path, inside, line, column }: Place): string {
  const position = line === undefined ? '' : `:${line}${column === undefined ? '' : `:${column}`}`;
  return displayText([path, ...inside].join(' » ') + position);
}

/** Tells whether a path is the URL of a served file, which is in no directory. */
export function isUrl(path: string): boolean {
  return /^https?:\/\//.test(path);
}
