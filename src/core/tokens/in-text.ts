import { literal } from '../text/expression.js';
import { isExample } from './shape.js';
import { type TokenShape, tokenShapes } from './shapes.js';

/** A token in a text. Offsets are UTF-16 code units. */
export interface FoundToken {
  shape: TokenShape;
  start: number;
  end: number;
}

/** The shapes by their marks; several may share one. */
const shapesByMark = new Map<string, TokenShape[]>();
for (const shape of tokenShapes)
  for (const mark of shape.marks) shapesByMark.set(mark, [...(shapesByMark.get(mark) ?? []), shape]);

/** Longer marks first, so that the most specific one matches. */
const anyMark = new RegExp(
  [...shapesByMark.keys()]
    .sort((a, b) => b.length - a.length)
    .map(literal)
    .join('|'),
  'g',
);

/** Every token in a text. */
export function tokensIn(text: string): FoundToken[] {
  return [...text.matchAll(anyMark)].flatMap(({ index }) => tokenWithMark(text, index) ?? []);
}

/** All marks are at least so long. */
const HEAD = 3;

const marksByHead = new Map<string, string[]>();
for (const mark of shapesByMark.keys())
  marksByHead.set(mark.slice(0, HEAD), [...(marksByHead.get(mark.slice(0, HEAD)) ?? []), mark]);

/** Marks that may stand before a run and not in it: those with characters that no run has, or that such a character may follow. */
const marksBefore = new RegExp(
  [...shapesByMark]
    .filter(([mark, shapes]) => /[^\w+/-]/.test(mark) || shapes.some(({ pattern }) => pattern.source.includes('\\.')))
    .map(([mark]) => literal(mark))
    .join('|'),
  'g',
);

const LONGEST_MARK = Math.max(...[...shapesByMark.keys()].map(({ length }) => length));

/** So far into a run a token may begin; longer ones are data. */
const LONGEST_BEGINNING = 600;

/**
 * The tokens that a run of token characters is part of. Faster than a search for all marks.
 * @param from where the run begins in the text @param to where it ends
 */
export function tokensAround(text: string, from: number, to: number): FoundToken[] {
  const places = [...text.slice(0, from + LONGEST_MARK).matchAll(marksBefore)].map(({ index }) => index);
  const until = Math.min(to, from + LONGEST_BEGINNING);
  for (let at = from; at < until; at++)
    if (at === from || isSign(text.charCodeAt(at - 1)) || isSign(text.charCodeAt(at))) places.push(at);
  return places.flatMap((at) => (marksByHead.has(text.slice(at, at + HEAD)) ? (tokenWithMark(text, at) ?? []) : []));
}

/** A URL whose slashes are escaped as in JSON. @param at where its user begins */
export function tokenInEscapedUrl(text: string, at: number): FoundToken[] {
  const scheme = /([a-z][a-z+]{1,12}):\\\/\\\/$/.exec(text.slice(Math.max(0, at - 24), at))?.[1];
  if (scheme === undefined) return [];
  const start = at - scheme.length - ':\\/\\/'.length;
  const found = tokenWithMark(`${scheme}://${text.slice(at)}`, 0);
  // Two backslashes are longer than none.
  return found ? [{ ...found, start, end: start + found.end + 2 }] : [];
}

function isSign(code: number): boolean {
  return code === 0x2d || code === 0x5f || code === 0x2b || code === 0x2f;
}

/** The token at a place where a mark may be: of the first mark and shape that fit. */
export function tokenWithMark(text: string, at: number): FoundToken | undefined {
  for (const mark of marksByHead.get(text.slice(at, at + HEAD)) ?? []) {
    if (!text.startsWith(mark, at)) continue;
    for (const shape of shapesByMark.get(mark) ?? []) {
      const found = tokenAt(text, at, shape);
      if (found) return found;
    }
  }
  return undefined;
}

/** No token is longer, but keys, which have an end of their own. */
export const LONGEST_TOKEN = 2600;

/** Longer texts before a mark belong to no token. */
const LONGEST_BEFORE = 40;

function tokenAt(text: string, mark: number, shape: TokenShape): FoundToken | undefined {
  const before = shape.before?.exec(text.slice(Math.max(0, mark - LONGEST_BEFORE), mark))?.[0];
  if (shape.before && before === undefined) return undefined;
  const start = mark - (before?.length ?? 0);
  const end = shape.endOf ? shape.endOf(text, start) : endOfToken(text, start, shape);
  if (end === undefined) return undefined;
  const token = text.slice(start, end);
  if ((shape.endOf && !shape.pattern.test(token)) || shape.accepts?.(token) === false || isExample(token))
    return undefined;
  return { shape, start, end };
}

/** The expressions of shapes, from a place on, to where no character of a token follows. */
const fromHere = new Map<TokenShape, RegExp>(
  tokenShapes.map((shape) => [shape, new RegExp(`(?:${shape.pattern.source.slice(1, -1)})(?![\\w-])`, 'y')]),
);

/** A token is no part of a longer word. */
function endOfToken(text: string, start: number, shape: TokenShape): number | undefined {
  if (/\w/.test(text[start - 1] ?? '')) return undefined;
  const expression = fromHere.get(shape) as RegExp;
  expression.lastIndex = start;
  return expression.test(text) ? expression.lastIndex : undefined;
}
