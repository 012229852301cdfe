import type { Encoding } from '../encoding.js';
import { type Escape, Escaper } from '../escape.js';

const hexOf = (sign: string) => (sign.codePointAt(0) as number).toString(16);

/** How a character beyond ASCII, or a line break, is written by its number; the space ends the number. */
const numbers: readonly ((sign: string, next: string) => string)[] = [
  (sign, next) => `\\${hexOf(sign)}${/[0-9A-Fa-f \t]/.test(next) ? ' ' : ''}`,
  (sign) => `\\${hexOf(sign)} `,
  (sign, next) => `\\${hexOf(sign).toUpperCase()}${/[0-9A-Fa-f \t]/.test(next) ? ' ' : ''}`,
  (sign) => `\\${hexOf(sign).toUpperCase()} `,
  (sign) => `\\${hexOf(sign).padStart(6, '0')}`,
];

const ways = (): Escape[][] =>
  ['"\\', "'\\", '\\', '"\'()\\ '].flatMap((escaped) => {
    const backslash: Escape = (sign) => (escaped.includes(sign) ? `\\${sign}` : undefined);
    return numbers.flatMap((number) => [
      [numbering(number, (sign) => sign < ' ' || sign > '~'), backslash],
      [numbering(number, (sign) => sign < ' '), backslash],
    ]);
  });

function numbering(number: (sign: string, next: string) => string, isNumbered: (sign: string) => boolean): Escape {
  return (sign, next) => (isNumbered(sign) ? number(sign, next) : undefined);
}

const escaper = new Escaper(/[^ -~]+[0-9A-Fa-f \t]?|["'()\\ ]/gu, ways);

/** Strings and addresses of style sheets (CSS Syntax Module Level 3, 4.3.7). */
export const css: Encoding = {
  name: 'css',
  example: '\\e4\\"/',
  *encode(value) {
    if (/^[\w .,:;@+=~!?*[\]{}|^%#/&<>$-]*$/.test(value)) return;
    const endsNumbered = /[^ -~]$/.test(value);
    // Tells whether a space ends the last number depends on what follows the value.
    for (const form of escaper.forms(value)) yield endsNumbered ? form.replace(/ $/, '') : form;
  },
};
