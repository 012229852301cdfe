import { escapeXmlControls } from './display.js';

/** Characters that XML 1.0 does not admit in any form (section 2.2). */
const forbidden = /[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu;

const entities: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;',
};

/** A text as the content of an XML element or attribute. Characters that XML forbids become U+FFFD. */
export function xmlText(text: string): string {
  const allowed = text.replace(forbidden, '\ufffd').replace(/[&<>"']/g, (one) => entities[one] as string);
  return escapeXmlControls(allowed);
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
