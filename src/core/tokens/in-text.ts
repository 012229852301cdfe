import { shapeOf, type TokenShape } from './shapes.js';

/** Only a text with one of these can hold a token; they are looked for first, as nearly no text has any. */
const marks =
  /(?:sk|rk|pk)_(?:live|test)_|whsec_|gh[pousr]_|github_pat_|glpat-|npm_[A-Za-z0-9]{30}|AKIA|ASIA|AIza|xox[abeoprs]-|SG\.|[sp]k\.eyJ|\bsk-/g;
const key = /-----BEGIN (?:[A-Z]+ )?PRIVATE KEY-----/g;

/** A token in a text. Offsets are UTF-16 code units. */
export interface FoundToken {
  shape: TokenShape;
  start: number;
  end: number;
}

/** Every text with a token's shape, wherever it stands. */
export function tokensIn(text: string): FoundToken[] {
  const found: FoundToken[] = [];
  for (const { index } of text.matchAll(marks)) {
    const [token = ''] = /^[\w.+/=-]+/.exec(text.slice(index, index + 400)) ?? [];
    const before = text[index - 1] ?? '';
    const shape = /\w/.test(before) ? undefined : (shapeOf(token.replace(/[.=]+$/, '')) ?? shapeOf(token));
    if (shape) found.push({ shape, start: index, end: index + token.length });
  }
  for (const { index } of text.matchAll(key)) {
    const end = text.indexOf('-----END', index);
    const shape = shapeOf(text.slice(index, index + 200));
    // The words alone, as a parser of such keys has them, are no key.
    const body = text.slice(index, end < 0 ? index : end).replace(/-----BEGIN[A-Z ]+-----|[\s\\nr"'`+,]/g, '');
    if (shape && end >= 0 && body.length > 100) found.push({ shape, start: index, end: end + 8 });
  }
  return found.sort((a, b) => a.start - b.start);
}
