import { encodeNonAsciiHTML, encodeXML, escapeAttribute, escapeText, escapeUTF8 } from 'entities';
import { type Charset, transformSync } from 'esbuild';
import { DomUtils, parseDocument } from 'htmlparser2';

/** Real encoders, as builds use them, by the encoding that must recognise what they print. */
export const encoders: [title: string, encode: (text: string) => string | Buffer][] = [
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
