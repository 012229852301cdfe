import type { Encoding } from '../encoding.js';

const hexOf = (sign: string) => (sign.codePointAt(0) as number).toString(16);

/** How a sign beyond ASCII, or a line break, is written by its number; the space ends the number. */
const numbers: readonly ((sign: string, next: string) => string)[] = [
  (sign, next) => `\\${hexOf(sign)}${/[0-9A-Fa-f \t]/.test(next) ? ' ' : ''}`,
  (sign) => `\\${hexOf(sign)} `,
  (sign, next) => `\\${hexOf(sign).toUpperCase()}${/[0-9A-Fa-f \t]/.test(next) ? ' ' : ''}`,
  (sign) => `\\${hexOf(sign).toUpperCase()} `,
  (sign) => `\\${hexOf(sign).padStart(6, '0')}`,
];

/** Strings and addresses of style sheets (CSS Syntax Module Level 3, 4.3.7). */
export const css: Encoding = {
  name: 'css',
  example: '\\e4\\"/',
  *encode(value) {
    if (/^[\w .,:;@+=~!?*[\]{}|^%#/&<>$-]*$/.test(value)) return;
    for (const escaped of ['"\\', "'\\", '\\', '"\'()\\ ']) {
      for (const number of numbers) {
        yield written(value, escaped, number, true);
        yield written(value, escaped, number, false);
      }
    }
  },
};

function written(
  value: string,
  escaped: string,
  number: (sign: string, next: string) => string,
  numbersAll: boolean,
): string {
  const signs = [...value];
  let text = '';
  signs.forEach((sign, index) => {
    const next = signs[index + 1] ?? '';
    const isNumbered = sign < ' ' || (numbersAll && sign > '~');
    const form = isNumbered ? number(sign, next) : escaped.includes(sign) ? `\\${sign}` : sign;
    // Whether a space ends the last number depends on what follows the value.
    text += isNumbered && index === signs.length - 1 ? form.trimEnd() : form;
  });
  return text;
}
