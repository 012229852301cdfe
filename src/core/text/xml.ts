/** Characters that XML 1.0 does not admit in any form (section 2.2). */
const forbidden = /[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu;

const entities: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;',
  '\n': '&#10;',
  '\r': '&#13;',
  '\t': '&#9;',
};

/** A text as the content of an XML element or attribute. Characters that XML forbids become U+FFFD. */
export function xmlText(text: string): string {
  const escaped = text.replace(forbidden, '\ufffd').replace(/[&<>"'\n\r\t]/g, (one) => entities[one] as string);
  // A bidirectional character would make the source read as another (UTR 36, 2.7).
  return escaped.replace(
    /[\x7f-\x9f\u200e\u200f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g,
    (one) => `&#${one.charCodeAt(0)};`,
  );
}

/** An element with attributes; absent ones are left out. @param content XML, or nothing */
export function element(
  name: string,
  attributes: Readonly<Record<string, string | number | undefined>>,
  content = '',
): string {
  const list = Object.entries(attributes).flatMap(([key, value]) =>
    value === undefined ? [] : ` ${key}="${xmlText(String(value))}"`,
  );
  return content === '' ? `<${name}${list.join('')}/>` : `<${name}${list.join('')}>${content}</${name}>`;
}
