import { alignments } from './encodings/base64.js';

/** Both letter cases of hexadecimal digits. */
const cases = [(hex: string) => hex, (hex: string) => hex.toUpperCase()];

/**
 * A whole value with every character escaped alike, and in base64 of base64 and of UTF-16: what a program prints to show or
 * to hide it. A search finds these by anchors; in a stream that chunks cut, only whole byte strings are recognised by
 * their beginnings.
 */
export function hiddenForms(value: string): string[] {
  const units = Array.from({ length: value.length }, (_, at) => value.charCodeAt(at));
  const points = Array.from(value, (character) => character.codePointAt(0) as number);
  const bytes = [...Buffer.from(value)];
  const escaped = cases.flatMap((inCase) => {
    const hex = (code: number, width: number) => inCase(code.toString(16).padStart(width, '0'));
    return [
      units.map((code) => `\\u${hex(code, 4)}`),
      units.map((code) => (code <= 0xff ? `\\x${hex(code, 2)}` : `\\u${hex(code, 4)}`)),
      points.map((code) => `\\u{${hex(code, 1)}}`),
      points.map((code) => `&#x${hex(code, 1)};`),
      bytes.map((code) => `%${hex(code, 2)}`),
    ].map((characters) => characters.join(''));
  });
  const twice = alignments(value).flatMap((text) => [...alignments(text)]);
  const utf16 = alignments(Array.from(value).join('\0'));
  const isLatin = units.every((code) => code > 0 && code < 0x80);
  const all = [...escaped, points.map((code) => `&#${code};`).join(''), ...twice, ...(isLatin ? utf16 : [])];
  return [...new Set(all)];
}
