import { encodeNonAsciiHTML } from 'entities';
import type { Encoding } from '../encoding.js';
import { type Escape, Escaper } from '../escape.js';

type Escapes = Readonly<Record<string, string>>;

const markup = { '&': '&amp;', '<': '&lt;', '>': '&gt;' };
const quoted = { ...markup, '"': '&quot;' };
const space = { '\u00a0': '&nbsp;' };
const numbered = (write: (code: number) => string): Escapes =>
  Object.fromEntries([...'&<>"\''].map((sign) => [sign, write(sign.charCodeAt(0))]));

/** Characters that HTML writers escape: the HTML Standard's own (13.3), those of XML, and those of template engines. */
const writers: readonly Escapes[] = [
  { ...markup, ...space },
  { '&': '&amp;', '"': '&quot;', ...space },
  { ...quoted, ...space },
  { '&': '&amp;', '<': '&lt;', '"': '&quot;' },
  ...['&#39;', '&#x27;', '&#039;', '&apos;'].map((apostrophe) => ({ ...quoted, "'": apostrophe })),
  { ...markup, "'": '&#39;', '"': '&#34;' },
  { ...markup, "'": '&#39;', '"': '&#34;', '+': '&#43;' },
  { ...quoted, "'": '&#39;', '/': '&#x2F;', '`': '&#x60;', '=': '&#x3D;' },
  { ...quoted, "'": '&#x27;', '/': '&#x2F;', '`': '&#x60;', '=': '&#x3D;' },
  numbered((code) => `&#${code};`),
  numbered((code) => `&#x${code.toString(16)};`),
  numbered((code) => `&#x${code.toString(16).toUpperCase()};`),
];

/** Signs beyond ASCII: as they are, by number in both notations, or by name. */
const beyondAscii: readonly Escape[] = [
  (sign) => sign,
  (sign) => `&#${sign.codePointAt(0)};`,
  (sign) => `&#x${sign.codePointAt(0)?.toString(16)};`,
  (sign) => `&#x${sign.codePointAt(0)?.toString(16).toUpperCase()};`,
  (sign) => encodeNonAsciiHTML(sign),
];

const escaper = new Escaper(/[&<>"'+/`=]|[^\0-~]/gu, () =>
  beyondAscii.flatMap((beyond) =>
    writers.map((writer) => [(sign: string) => writer[sign] ?? (sign > '~' ? undefined : sign), beyond]),
  ),
);

/** Character references of HTML (HTML Standard, 13.5) and XML (4.1), as writers of pages and documents choose them. */
export const html: Encoding = {
  name: 'html',
  example: '&#228;&quot;/',
  encode: (value) => escaper.forms(value),
};
