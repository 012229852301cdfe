import { literal } from '../text/expression.js';
import { once } from '../text/once.js';
import { generalShapes } from './general.js';
import { serviceShapes } from './services.js';
import { isExample, type TokenShape } from './shape.js';

export type { TokenShape } from './shape.js';

/** All shapes; a service's own comes before a general one. */
export const tokenShapes: readonly TokenShape[] = [...serviceShapes, ...generalShapes];

/** The shape of a whole value. */
export function shapeOf(value: string): TokenShape | undefined {
  // Most values are URLs, and no token is one.
  if (value.startsWith('http') || !anyMark().test(value) || isExample(value)) return undefined;
  return tokenShapes.find(
    ({ marks, pattern, accepts }) =>
      marks.some((mark) => value.includes(mark)) && pattern.test(value) && accepts?.(value) !== false,
  );
}

/** Matches the marks of all shapes, to reject most values at once. */
const anyMark = once(() => {
  const marks = new Set(tokenShapes.flatMap((shape) => shape.marks));
  return new RegExp([...marks].map(literal).join('|'));
});

/** Words that name a secret; `KEY` and `TOKEN` alone do not, as many of them are made to be public. */
const secretWords =
  /(^|_)(SECRET|SECRETS|PASSWORD|PASSWD|PASSPHRASE|PRIVATE|CREDENTIALS?|SIGNING|SERVICE_ROLE|ADMIN_KEY|DATABASE_URL|CONNECTION_STRING|ENCRYPTION_KEY)(_|$)/;
const publicWords = /(^|_)(PUBLIC|PUBLISHABLE|ANON|CLIENT_ID)(_|$)/;

/** Tells whether a variable's name is a secret's. */
export function namesSecret(name: string): boolean {
  const upper = name.toUpperCase();
  return secretWords.test(upper) && !publicWords.test(upper);
}
