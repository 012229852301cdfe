import type { Encoding } from '../encoding.js';

/** How one sign is written, or undefined where a rule leaves it to the next one. */
type Escape = (sign: string, next: string, before: string) => string | undefined;

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

const none: Escape = () => undefined;

/** A sign by its number: `\u00e4` in both letter cases, and the shorter `\xe4` and `\u{1F6F3}` that minifiers choose. */
const numbers = [unicode, unicodeUpper, shortest, shortestUpper, braced] as const;

interface Page {
  /** The signs that it is about. */
  signs: RegExp;
  escape: Escape;
  /** What goes with it for signs that are not printable ASCII. */
  beyond: readonly Escape[];
}

/** As code and JSON have it, slashes escaped or not. */
const asWritten: readonly Page[] = [
  { signs: /^/, escape: none, beyond: allBeyond() },
  { signs: /\//, escape: (sign) => (sign === '/' ? '\\/' : undefined), beyond: allBeyond() },
  {
    signs: /<\//,
    escape: (sign, _, before) => (sign === '/' && before === '<' ? '\\/' : undefined),
    beyond: allBeyond(),
  },
];

/** What printers do with signs that could end a script in a page, and those that escape all signs but letters and digits. */
const pages: readonly Page[] = [
  ...[/[<>&\u2028\u2029]/, /[<>&'"+`\u2028\u2029]/, /[<>&'"/=\u2028\u2029]/].flatMap((signs) =>
    numbers.map((number) => byNumber(signs, number)),
  ),
  ...[unicodeUpper, shortestUpper].map((number) => byNumber(/[^A-Za-z0-9]/, number)),
];

function byNumber(signs: RegExp, number: (sign: string) => string) {
  const beyond = [controls(unicode), beyondAscii(number)];
  // The same few signs come again and again.
  const known = new Map<string, string | undefined>();
  const escapeSign = (sign: string) => {
    if (!known.has(sign)) known.set(sign, signs.test(sign) ? number(sign) : undefined);
    return known.get(sign);
  };
  return { signs, escape: escapeSign, beyond };
}

/** What may be done with signs that are not printable ASCII: all as they are but controls, or each by its number. */
function allBeyond(): Escape[] {
  return [controls(unicode), controls(shortestUpper), ...numbers.map(beyondAscii)];
}

function controls(number: (sign: string) => string): Escape {
  return (sign) => (sign < ' ' ? number(sign) : undefined);
}

function beyondAscii(number: (sign: string) => string): Escape {
  return (sign) => (sign > '~' || sign < ' ' ? number(sign) : undefined);
}

/**
 * String literals of JavaScript (ECMA-262, 12.9.4) and JSON (RFC 8259, section 7), and a literal inside another one, as a
 * source map holds its sources.
 */
export const jsString: Encoding = {
  name: 'js-string',
  example: '\\u00e4\\"\\/',
  *encode(value) {
    for (const once of literalForms(value, asWritten)) {
      yield once;
      if (/["\\\n\t\r]/.test(once)) yield JSON.stringify(once).slice(1, -1);
    }
    // What a printer makes of a page is its last step.
    yield* literalForms(value, pages);
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
    if (/[^ -~]/.test(text)) yield escapeWith(text, [beyondAscii(unicode)]);
  },
};

/** Every form of the value inside one literal. Rules that none of its signs is concerned by are passed over. */
function literalForms(value: string, all: readonly Page[]): Set<string> {
  const quoting = /["'`$\\\b\t\n\f\r\v]/.test(value) ? literals : [none];
  const isPrintable = /^[ -~]*$/.test(value);
  const forms = new Set<string>();
  for (const page of all.filter(({ signs }) => signs.test(value))) {
    for (const literal of quoting)
      for (const other of isPrintable ? [none] : page.beyond)
        forms.add(escapeWith(value, [page.escape, literal, other]));
  }
  return forms;
}

function escapeWith(value: string, rules: readonly Escape[]): string {
  return value.replace(/[^A-Za-z0-9]/gu, (sign, offset: number) => {
    for (const rule of rules) {
      const written = rule(sign, value[offset + 1] ?? '', value[offset - 1] ?? '');
      if (written !== undefined) return written;
    }
    return sign;
  });
}

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
