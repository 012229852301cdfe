import { type TokenShape, tokenShapes } from './shapes.js';

/** A token in a text. Offsets are UTF-16 code units. */
export interface FoundToken {
  shape: TokenShape;
  start: number;
  end: number;
}

/** The shapes by their marks. */
const shapesByMark = new Map<string, TokenShape>(
  tokenShapes.flatMap((shape) => shape.marks.map((mark) => [mark, shape] as const)),
);

/** Longer marks first, so that the most specific one matches. */
const anyMark = new RegExp(
  [...shapesByMark.keys()]
    .sort((a, b) => b.length - a.length)
    .map((mark) => mark.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
    .join('|'),
  'g',
);

/** No token is longer. Private keys have an end of their own. */
const LONGEST = 400;

/** Every token in a text. */
export function tokensIn(text: string): FoundToken[] {
  return [...text.matchAll(anyMark)].flatMap(({ 0: mark, index }) => {
    const shape = shapesByMark.get(mark) as TokenShape;
    const end = shape.endOf ? shape.endOf(text, index) : endOfRun(text, index, shape);
    const isToken = end !== undefined && (!shape.endOf || shape.pattern.test(text.slice(index, end)));
    return isToken ? [{ shape, start: index, end }] : [];
  });
}

/** The end of a run of token characters that has the shape, with or without punctuation at its end. */
function endOfRun(text: string, start: number, { pattern }: TokenShape): number | undefined {
  if (/\w/.test(text[start - 1] ?? '')) return undefined;
  const [token = ''] = /^[\w.+/=-]+/.exec(text.slice(start, start + LONGEST)) ?? [];
  return pattern.test(token.replace(/[.=]+$/, '')) || pattern.test(token) ? start + token.length : undefined;
}
