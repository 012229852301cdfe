import type { Encoding } from '../encoding.js';
import { type Escape, Escaper } from '../escape.js';

const shortEscapes: Readonly<Record<string, string>> = {
  '\b': '\\b',
  '\t': '\\t',
  '\n': '\\n',
  '\f': '\\f',
  '\r': '\\r',
  '\\': '\\\\',
};
const scriptEscapes: Readonly<Record<string, string>> = { ...shortEscapes, '\v': '\\v' };

/** Signs that are escaped in each kind of literal. JSON's is the first, and has no \v. */
const literals: readonly Escape[] = [
  (sign) => (sign === '"' ? '\\"' : shortEscapes[sign]),
  (sign) => (sign === '"' ? '\\"' : scriptEscapes[sign]),
  (sign) => (sign === "'" ? "\\'" : scriptEscapes[sign]),
  (sign, next) => (sign === '`' || (sign === '$' && next === '{') ? `\\${sign}` : lineOrShort(sign)),
  (sign) => (sign === '`' || sign === '$' ? `\\${sign}` : lineOrShort(sign)),
  (sign, next) => (sign === '`' || (sign === '$' && next === '{') ? `\\${sign}` : scriptEscapes[sign]),
];

/** A template may hold a line break as it is. */
function lineOrShort(sign: string): string | undefined {
  return sign === '\n' ? sign : scriptEscapes[sign];
}

/** A sign by its number: `\u00e4` in both letter cases, and the shorter `\xe4` and `\u{1F6F3}` that minifiers choose. */
const numbers = [unicode, unicodeUpper, shortest, shortestUpper, braced] as const;

/** Escapes of code and JSON, slashes escaped or not. */
const slashes: readonly Escape[] = [
  () => undefined,
  (sign) => (sign === '/' ? '\\/' : undefined),
  (sign, _, before) => (sign === '/' && before === '<' ? '\\/' : undefined),
];

/** Signs that could end a script in a page, as printers know them, and all signs but letters and digits. */
const inPages: readonly [signs: RegExp, numbers: readonly ((sign: string) => string)[]][] = [
  [/[<>&\u2028\u2029]/, numbers],
  [/[<>/\u2028\u2029]/, numbers],
  [/[<>&'"+`\u2028\u2029]/, numbers],
  [/[<>&'"/=\u2028\u2029]/, numbers],
  [/[^A-Za-z0-9]/, [unicodeUpper, shortestUpper]],
];

/**
 * Ways to write characters beyond printable ASCII: unchanged except control characters, each as an escape, or as an escape only
 * those that fit into a byte (\xe4), or only the others.
 */
function allBeyond(): Escape[] {
  const [inByte, longer] = [/[\x7f-\xff]/, /[^\0-\xff]/];
  return [
    ...[controls(unicode), controls(shortestUpper)],
    ...numbers.map(beyondAscii),
    ...[shortest, shortestUpper, unicode, unicodeUpper].map((number) => byNumber(inByte, number)),
    ...[unicode, unicodeUpper, braced].map((number) => byNumber(longer, number)),
  ];
}

function byNumber(signs: RegExp, number: (sign: string) => string): Escape {
  return (sign) => (signs.test(sign) ? number(sign) : undefined);
}

function controls(number: (sign: string) => string): Escape {
  return (sign) => (sign < ' ' ? number(sign) : undefined);
}

function beyondAscii(number: (sign: string) => string): Escape {
  return (sign) => (sign > '~' || sign < ' ' ? number(sign) : undefined);
}

/** Signs that some rule knows, with the neighbours that it has to know. */
const special = /\$\{|<\/|[^A-Za-z0-9]/gu;

const asWritten = new Escaper(special, () =>
  slashes.flatMap((slash) => literals.flatMap((literal) => allBeyond().map((beyond) => [slash, literal, beyond]))),
);

const ofPages = new Escaper(special, () =>
  inPages.flatMap(([signs, all]) =>
    all.flatMap((number) =>
      literals.flatMap((literal) =>
        [controls(unicode), beyondAscii(number)].map((beyond) => [byNumber(signs, number), literal, beyond]),
      ),
    ),
  ),
);

const inAscii = new Escaper(special, () => [[beyondAscii(unicode)]]);

/**
 * String literals of JavaScript (ECMA-262, 12.9.4) and JSON (RFC 8259, section 7), and a literal inside another one, as a
 * source map holds its sources.
 */
export const jsString: Encoding = {
  name: 'js-string',
  example: '\\u00e4\\"\\/',
  *encode(value) {
    for (const escaper of [asWritten, ofPages])
      for (const once of escaper.forms(value)) {
        yield once;
        if (/["\\\n\t\r]/.test(once)) yield JSON.stringify(once).slice(1, -1);
      }
  },
};

/** JSON alone, as a step before another encoding: as it is, with slashes escaped, and in ASCII. */
export const json: Encoding = {
  name: 'js-string',
  example: '\\"',
  *encode(value) {
    const text = JSON.stringify(value).slice(1, -1);
    yield text;
    if (text.includes('/')) yield text.replaceAll('/', '\\/');
    if (/[^ -~]/.test(text)) yield* inAscii.forms(text);
  },
};

function unicode(sign: string): string {
  return Array.from({ length: sign.length }, (_, i) => `\\u${sign.charCodeAt(i).toString(16).padStart(4, '0')}`).join(
    '',
  );
}

function unicodeUpper(sign: string): string {
  return unicode(sign).toUpperCase().replaceAll('\\U', '\\u');
}

function shortest(sign: string): string {
  const code = sign.charCodeAt(0);
  return code < 0x100 && sign.length === 1 ? `\\x${code.toString(16).padStart(2, '0')}` : unicode(sign);
}

function shortestUpper(sign: string): string {
  return shortest(sign).toUpperCase().replaceAll('\\X', '\\x').replaceAll('\\U', '\\u');
}

function braced(sign: string): string {
  return sign.length === 1 ? shortestUpper(sign) : `\\u{${(sign.codePointAt(0) as number).toString(16).toUpperCase()}}`;
}
