import type { Variable } from '../contract/contract.js';
import { escapeJsonControls } from '../text/display.js';

/** A text as a JavaScript string literal that is safe inside a page. */
export function stringLiteral(value: string): string {
  return inPage(JSON.stringify(value));
}

/**
 * JSON that is safe in a script of a page: the HTML parser ends a script at `</script`, and enters states of its own at
 * `<!--` and `<script` (HTML, 13.2.5.15 and following); U+2028 and U+2029 end a line in older engines. All are escaped
 * as both JSON and JavaScript allow.
 */
export function inPage(json: string): string {
  return escapeJsonControls(json).replace(/<(?=[!/s])/gi, '\\u003c');
}

/** A value in the type of its form, as a JavaScript literal that is safe in a page; `undefined` for an empty one. */
export function valueLiteral({ form }: Variable, text: string): string {
  if (text === '') return 'undefined';
  const of = form.of;
  if (form.name !== 'list') return one(form.name, form.type.typescript, text);
  const items = text.split(',').map((item) => one(of?.name ?? 'text', of?.type.typescript ?? 'string', item.trim()));
  return `[${items.join(', ')}]`;
}

function one(form: string, type: string, text: string): string {
  if (type === 'number') return String(Number(text));
  if (type === 'boolean') return String(text === 'true' || text === '1');
  if (form !== 'json') return stringLiteral(text);
  const json = JSON.stringify(JSON.parse(text));
  // Written out, the name would set the prototype of the object.
  return json.includes('"__proto__"') ? `JSON.parse(${stringLiteral(json)})` : inPage(json);
}
