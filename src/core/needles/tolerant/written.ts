import { encodeHTML } from 'entities';

/** One way to write a character. */
export interface Written {
  /** One character per byte, as UTF-8 unless the way says otherwise. */
  text: string;
  /** The encodings that write it so, as a set of {@link ways}; none for the character itself. */
  ways: number;
}

/** The encodings of single characters. In this order one is named, if several explain a text. */
export const ways = ['js-string', 'html', 'css', 'percent', 'latin-1'] as const;

const bit = (way: (typeof ways)[number]) => 1 << ways.indexOf(way);
const [JS, HTML, CSS, PERCENT, LATIN1] = ways.map(bit) as [number, number, number, number, number];

const short: Readonly<Record<string, string>> = {
  '\b': 'b',
  '\t': 't',
  '\n': 'n',
  '\v': 'v',
  '\f': 'f',
  '\r': 'r',
  '\0': '0',
};

const known = new Map<string, readonly Written[]>();

/**
 * Every way to write a character (one code point) in text: itself, and the escapes of scripts and JSON (ECMA-262, 12.9.4; RFC 8259,
 * section 7), HTML and XML (HTML Standard, 13.5), style sheets (CSS Syntax Level 3, 4.3.7) and URLs (RFC 3986, 2.1; the URL
 * Standard's form rule). Letters and digits may be escaped too. Longer forms come first.
 */
export function writtenForms(character: string): readonly Written[] {
  const forms = known.get(character);
  if (forms) return forms;
  const made = [...withoutTwins(all(character))].sort((a, b) => b.text.length - a.text.length);
  known.set(character, made);
  return made;
}

function* all(character: string): Generator<Written> {
  const code = character.codePointAt(0) as number;
  yield { text: bytesOf(character), ways: 0 };
  // Files of other systems end lines so.
  if (character === '\n') yield { text: '\r\n', ways: 0 };
  yield* inScripts(character, code);
  yield* inMarkup(character, code);
  yield* inStyles(code);
  yield* inUrls(character);
  if (code >= 0x80 && code <= 0xff) yield { text: character, ways: LATIN1 };
}

function* inScripts(character: string, code: number): Generator<Written> {
  const letter = short[character];
  if (letter !== undefined) yield { text: `\\${letter}`, ways: JS };
  else if (/[^A-Za-z0-9\r\n\u2028\u2029]/.test(character)) yield { text: `\\${bytesOf(character)}`, ways: JS | CSS };
  for (const hex of cases(code.toString(16))) {
    if (code <= 0xff) yield { text: `\\x${hex.padStart(2, '0')}`, ways: JS };
    yield { text: `\\u{${hex}}`, ways: JS };
    yield { text: `\\u{${hex.padStart(4, '0')}}`, ways: JS };
  }
  const units = Array.from({ length: character.length }, (_, at) =>
    character.charCodeAt(at).toString(16).padStart(4, '0'),
  );
  for (const text of prefixed('\\u', units)) yield { text, ways: JS };
}

function* inMarkup(character: string, code: number): Generator<Written> {
  for (const digits of [`${code}`, `${code}`.padStart(3, '0')]) yield { text: `&#${digits};`, ways: HTML };
  for (const hex of cases(code.toString(16)))
    for (const text of [`&#x${hex};`, `&#X${hex};`, `&#x${hex.padStart(2, '0')};`]) yield { text, ways: HTML };
  if (character === "'") yield { text: '&apos;', ways: HTML };
  const named = encodeHTML(character);
  if (named !== character) yield { text: named, ways: HTML };
}

function* inStyles(code: number): Generator<Written> {
  for (const hex of cases(code.toString(16))) {
    // A space ends the number, unless no digit follows.
    yield { text: `\\${hex} `, ways: CSS };
    yield { text: `\\${hex}`, ways: CSS };
    yield { text: `\\${hex.padStart(6, '0')}`, ways: CSS };
  }
}

function* inUrls(character: string): Generator<Written> {
  if (!character.isWellFormed()) return;
  const codes = [...Buffer.from(character)].map((byte) => byte.toString(16).padStart(2, '0'));
  for (const text of prefixed('%', codes)) yield { text, ways: PERCENT };
  if (character === ' ') yield { text: '+', ways: PERCENT };
}

/** Both letter cases of hexadecimal digits, if they differ. */
function cases(hex: string): string[] {
  const upper = hex.toUpperCase();
  return upper === hex ? [hex] : [hex, upper];
}

/** Numbers in hexadecimal digits with a prefix each, in both letter cases. */
function prefixed(prefix: string, numbers: readonly string[]): string[] {
  return cases(numbers.join(' ')).map((text) => prefix + text.replaceAll(' ', prefix));
}

function bytesOf(text: string): string {
  return text < '\x80' ? text : Buffer.from(text).toString('latin1');
}

function withoutTwins(forms: Iterable<Written>): Iterable<Written> {
  const byText = new Map<string, Written>();
  for (const form of forms) {
    const twin = byText.get(form.text);
    byText.set(form.text, twin ? { text: form.text, ways: twin.ways === 0 ? 0 : twin.ways | form.ways } : form);
  }
  return byText.values();
}
