import { encodeNonAsciiHTML } from 'entities';
import type { Encoding } from '../encoding.js';

type Escapes = Readonly<Record<string, string>>;

const markup = { '&': '&amp;', '<': '&lt;', '>': '&gt;' };
const quoted = { ...markup, '"': '&quot;' };
const space = { '\u00a0': '&nbsp;' };
const numbered = (write: (code: number) => string): Escapes =>
  Object.fromEntries([...'&<>"\''].map((sign) => [sign, write(sign.charCodeAt(0))]));

/** What the writers of pages escape: the HTML Standard's own (13.3), those of XML, and those of template engines. */
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
const beyondAscii: readonly ((sign: string) => string)[] = [
  (sign) => sign,
  (sign) => `&#${sign.codePointAt(0)};`,
  (sign) => `&#x${sign.codePointAt(0)?.toString(16)};`,
  (sign) => `&#x${sign.codePointAt(0)?.toString(16).toUpperCase()};`,
  (sign) => encodeNonAsciiHTML(sign),
];

/** Character references of HTML (HTML Standard, 13.5) and XML (4.1), as writers of pages and documents choose them. */
export const html: Encoding = {
  name: 'html',
  example: '&#228;&quot;/',
  *encode(value) {
    if (/^[^&<>"'+/`=\x80-\uffff]*$/.test(value)) return;
    const isAscii = /^[\0-~]*$/.test(value);
    for (const writer of writers)
      for (const beyond of isAscii ? beyondAscii.slice(0, 1) : beyondAscii)
        yield value.replace(/[&<>"'+/`=]|[^\0-~]/gu, (sign) => writer[sign] ?? (sign > '~' ? beyond(sign) : sign));
  },
};
