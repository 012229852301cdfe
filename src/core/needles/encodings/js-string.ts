import type { Encoding } from '../encoding.js';

type Escape = (sign: string) => string | undefined;

const shortEscapes: Record<string, string> = {
  '\b': '\\b',
  '\t': '\\t',
  '\n': '\\n',
  '\f': '\\f',
  '\r': '\\r',
  '\v': '\\v',
  '\\': '\\\\',
};

/** Signs that are escaped in each kind of literal; JSON has only the first, and no \v. */
const literals: Escape[] = [
  (sign) => (sign === '"' ? '\\"' : sign === '\v' ? '\\u000b' : shortEscapes[sign]),
  (sign) => (sign === "'" ? "\\'" : shortEscapes[sign]),
  (sign) => (sign === '`' || sign === '$' ? `\\${sign}` : sign === '\n' ? sign : shortEscapes[sign]),
];

/** What printers do with `/`, and with the signs that could end a script in a page. */
const pageEscapes: Escape[] = [
  () => undefined,
  (sign) => (sign === '/' ? '\\/' : undefined),
  (sign) => (/[<>&\u2028\u2029]/.test(sign) ? unicode(sign) : undefined),
  (sign) => (/[<>&\u2028\u2029]/.test(sign) ? unicode(sign).toUpperCase().replace('\\U', '\\u') : undefined),
];

/** Raw, `\u00e4` in both letter cases, and the shorter `\xe4` that minifiers choose. */
const beyondAscii: Escape[] = [
  () => undefined,
  (sign) => (sign > '~' ? unicode(sign) : undefined),
  (sign) => (sign > '~' ? unicode(sign).toUpperCase().replaceAll('\\U', '\\u') : undefined),
  (sign) => (sign > '~' ? shortest(sign) : undefined),
  (sign) => (sign > '~' ? shortest(sign).toUpperCase().replaceAll('\\X', '\\x').replaceAll('\\U', '\\u') : undefined),
];

/**
 * String literals of JavaScript (ECMA-262, 12.9.4) and JSON (RFC 8259, section 7), and a literal inside another one, as a
 * source map holds its sources.
 */
export const jsString: Encoding = {
  name: 'js-string',
  example: '\\u00e4\\"\\/',
  *encode(value) {
    for (const once of literalForms(value)) {
      yield Buffer.from(once);
      yield Buffer.from(JSON.stringify(once).slice(1, -1));
    }
  },
};

/** What no printer escapes; most values are nothing else. */
const unescaped = /^[\w .,:;@+=~!?*()[\]{}|^%#-]*$/;

/** Every form of the value inside one literal. */
function literalForms(value: string): Set<string> {
  if (unescaped.test(value)) return new Set([value]);
  const forms = new Set<string>();
  for (const literal of literals) {
    for (const page of pageEscapes) {
      for (const beyond of beyondAscii) forms.add(escapeWith(value, [literal, page, beyond]));
    }
  }
  return forms;
}

function escapeWith(value: string, escapes: Escape[]): string {
  let text = '';
  for (const sign of value)
    text += escapes.reduce<string | undefined>((done, rule) => done ?? rule(sign), undefined) ?? sign;
  return text;
}

function unicode(sign: string): string {
  return Array.from({ length: sign.length }, (_, i) => `\\u${sign.charCodeAt(i).toString(16).padStart(4, '0')}`).join(
    '',
  );
}

function shortest(sign: string): string {
  const code = sign.charCodeAt(0);
  return code < 0x100 ? `\\x${code.toString(16).padStart(2, '0')}` : unicode(sign);
}
