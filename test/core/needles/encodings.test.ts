import { encodeNonAsciiHTML, encodeXML, escapeAttribute, escapeText, escapeUTF8 } from 'entities';
import { type Charset, transformSync } from 'esbuild';
import fc from 'fast-check';
import { DomUtils, parseDocument } from 'htmlparser2';
import { describe, expect, test } from 'vitest';
import { encodings, needlesFor } from '../../../src/core/needles/index.js';
import { weakness } from '../../../src/core/needles/weak.js';

/** Real encoders, as builds use them, by the encoding that must recognise what they print. */
const encoders: [title: string, encode: (text: string) => string | Buffer][] = [
  ['the text itself', (text) => text],
  ['JSON', (text) => JSON.stringify({ a: [text] })],
  [
    'JSON inside JSON, as in a source map',
    (text) => JSON.stringify({ sourcesContent: [`x = ${JSON.stringify(text)};`] }),
  ],
  ['JSON for a page', (text) => pageJson(text)],
  ['a script for a page', (text) => pageJson(text, /[<>/\u2028\u2029]/g, (code) => code.toUpperCase())],
  ['JSON for a page, in JSON', (text) => JSON.stringify(pageJson(text))],
  ['a buffer in JSON', (text) => JSON.stringify(Buffer.from(text))],
  ['character codes in a script', (text) => codes(text, false)],
  ['character codes in a script, minified', (text) => codes(text, true)],
  ['JSON with escaped slashes', (text) => JSON.stringify(text).replaceAll('/', '\\/')],
  [
    'ASCII-only JSON',
    (text) =>
      JSON.stringify(text).replace(/[^ -~]/g, (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`),
  ],
  ['a component', (text) => encodeURIComponent(text)],
  ['a URL', (text) => encodeURI(text)],
  ['a form', (text) => new URLSearchParams({ key: text }).toString()],
  ['lower-case percent codes', (text) => encodeURIComponent(text).replace(/%../g, (code) => code.toLowerCase())],
  ['base64', (text) => Buffer.from(text).toString('base64')],
  ['base64url', (text) => Buffer.from(text).toString('base64url')],
  ['hexadecimal', (text) => Buffer.from(text).toString('hex')],
  ['UTF-16', (text) => Buffer.from(text, 'utf16le')],
  ['UTF-16, big-endian', (text) => Buffer.from(text, 'utf16le').swap16()],
  ['base64 of JSON', (text) => btoa(unescape(encodeURIComponent(JSON.stringify({ a: text }))))],
  ['base64 in a URL', (text) => encodeURIComponent(Buffer.from(text).toString('base64'))],
  ['base64 in JSON with escaped slashes', (text) => Buffer.from(text).toString('base64').replaceAll('/', '\\/')],
  ['XML', encodeXML],
  ['HTML, escaped for text and attributes', escapeUTF8],
  ['HTML text', escapeText],
  ['an HTML attribute', escapeAttribute],
  ['HTML in ASCII, by name', encodeNonAsciiHTML],
  ['JSON in an HTML attribute', (text) => escapeAttribute(JSON.stringify({ a: text }))],
  ['a page as its serialiser writes it', (text) => page(text)],
  ['a script, minified', (text) => script(text, 'utf8', true)],
  ['a script in ASCII, minified', (text) => script(text, 'ascii', true)],
  ['a script as it is', (text) => script(text, 'utf8', false)],
  ['a style sheet', (text) => style(text, 'utf8')],
  ['a style sheet in ASCII', (text) => style(text, 'ascii')],
  ['a style sheet in a source map', (text) => JSON.stringify({ sourcesContent: [style(text, 'ascii')] })],
  ['the other normal form', (text) => text.normalize(text.normalize('NFD') === text ? 'NFC' : 'NFD')],
];

/** A script in a page must not end early. */
const pageJson = (text: string, signs = /[<>&\u2028\u2029]/g, digits = (code: string) => code) =>
  JSON.stringify(text).replace(signs, (sign) => `\\u${digits(sign.charCodeAt(0).toString(16).padStart(4, '0'))}`);

/** A paragraph with the text in it, as a document's own serialiser writes it. */
function page(text: string): string {
  const document = parseDocument('<p>x</p>');
  const [inner] = DomUtils.findAll(() => true, document.children)[0]?.children ?? [];
  if (inner && 'data' in inner) inner.data = text;
  return DomUtils.getOuterHTML(document);
}

const script = (text: string, charset: Charset, minify: boolean) =>
  transformSync(`log(${JSON.stringify(text)});`, { charset, minify }).code;
const codes = (text: string, minify: boolean) =>
  transformSync(
    `log(String.fromCharCode(${Array.from({ length: text.length }, (_, at) => text.charCodeAt(at)).join()}));`,
    { minify },
  ).code;
const style = (text: string, charset: Charset) =>
  transformSync(`a{content:"${text.replace(/["\\\n]/g, (sign) => `\\${sign.charCodeAt(0).toString(16)} `)}"}`, {
    loader: 'css',
    charset,
    minify: true,
    logLevel: 'silent',
  }).code;

const surroundings = fc.string({ unit: 'grapheme', maxLength: 9 });
const value = fc
  .string({ unit: 'grapheme', minLength: 8, maxLength: 40 })
  .filter((text) => !weakness(text) && text.isWellFormed());
const ascii = fc.string({ minLength: 8, maxLength: 40 }).filter((text) => !weakness(text));

describe('whatever stands around the value, a real encoder prints one of its needles', () => {
  test.each(encoders)('%s', (_, encode) => {
    fc.assert(
      fc.property(fc.oneof(value, ascii), surroundings, surroundings, (text, before, after) => {
        const output = Buffer.from(encode(before + text + after));
        const needles = needlesFor([{ value: text, owner: 0 }]);
        expect(needles.some(({ bytes }) => output.includes(Buffer.from(bytes)))).toBe(true);
      }),
      { numRuns: 150 },
    );
  });
});

test.each([64, 76])('base64 in lines of %i, wherever the value begins', (width) => {
  fc.assert(
    fc.property(fc.string({ minLength: 16, maxLength: 120 }), fc.nat(100), (text, lead) => {
      fc.pre(!weakness(text));
      const encoded = Buffer.from(`${'x'.repeat(lead)}${text}yy`).toString('base64');
      const output = encoded.replace(new RegExp(`.{${width}}`, 'g'), '$&\r\n');
      const needles = needlesFor([{ value: text, owner: 0 }]);
      expect(needles.some(({ bytes }) => output.includes(Buffer.from(bytes).toString()))).toBe(true);
    }),
    { numRuns: 200 },
  );
});

describe('literals of scripts', () => {
  const text = 'it\'s "Überfahrt" `${1}`/\n\\</script>';
  test.each([
    ['single quotes', `'it\\'s "Überfahrt" \`\${1}\`/\\n\\\\</script>'`],
    ['double quotes, escaped', '"it\'s \\"\\xdcberfahrt\\" `${1}`/\\n\\\\</script>"'],
    ['a template', '`it\'s "Überfahrt" \\`\\${1}\\`/\n\\\\</script>`'],
  ])('%s', (_, literal) => {
    // biome-ignore lint/security/noGlobalEval: the judge is the language itself
    expect(eval(literal)).toBe(text);
    const needles = needlesFor([{ value: text, owner: 0 }]);
    expect(needles.some(({ bytes }) => literal.includes(Buffer.from(bytes).toString()))).toBe(true);
  });
});

test('needles are unique by their bytes, with the first encoding and all owners', () => {
  const needles = needlesFor([
    { value: 'made-up-key', owner: 'A' },
    { value: 'made-up-key', owner: 'B' },
  ]);
  expect(new Set(needles.map(({ bytes }) => Buffer.from(bytes).toString())).size).toBe(needles.length);
  expect(needles[0]).toEqual({ bytes: Buffer.from('made-up-key'), encoding: ['plain'], owners: ['A', 'B'] });
  expect(needles.every(({ owners }) => owners.join() === 'A,B')).toBe(true);
});

test('base64 needles hold no character that depends on a neighbour', () => {
  const needles = needlesFor([{ value: 'made-up-key', owner: 0 }]).filter(({ encoding }) => encoding[0] === 'base64');
  for (const lead of ['', 'x', 'xy']) {
    for (const trail of ['', 'z', '\xff']) {
      const output = Buffer.from(`${lead}made-up-key${trail}`).toString('base64');
      expect(needles.filter(({ bytes }) => output.includes(Buffer.from(bytes).toString())).length).toBe(1);
    }
  }
});

test.each<[value: string, because: string | undefined]>([
  ['abc', 'shorter than 6 bytes'],
  ['  abc    ', 'shorter than 6 bytes'],
  ['1234567', 'a short number'],
  ['127.0.0.1', 'a short number'],
  ['4929000000006', undefined],
  ['ababab', 'fewer than four different characters'],
  ['Production', 'an ordinary word'],
  ['tickets', 'a short word'],
  ['s3cr3t-x', undefined],
  ['made-up-key', undefined],
])('%j: %s', (text, because) => expect(weakness(text)).toBe(because));

const byteOf = (sign: string) => `\\x${sign.charCodeAt(0).toString(16).padStart(2, '0')}`;

test('every encoding is in the table once and has an example', () => {
  expect(new Set(encodings.map(({ name }) => name)).size).toBe(encodings.length);
  for (const { name, encode, example } of encodings) {
    const forms = [...encode('ä"/')].map((form) =>
      typeof form === 'string'
        ? form
        : Buffer.from(form)
            .toString('latin1')
            .replace(/[^ -~]/g, byteOf),
    );
    expect([name, forms.some((form) => form.includes(example))]).toEqual([name, true]);
  }
});
