import type { Variable } from '../contract/contract.js';

/** A text as a JavaScript string that may stand in a page: U+2028 and U+2029 end a line in older engines, `</` a script. */
export function stringLiteral(value: string): string {
  return JSON.stringify(value)
    .replace(/[\u2028\u2029]/g, (sign) => `\\u${sign.charCodeAt(0).toString(16)}`)
    .replaceAll('</', '<\\/');
}

/** A value in the type of its form, as a JavaScript literal that may stand in a page; `undefined` for an empty one. */
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
  return form === 'json' ? JSON.stringify(JSON.parse(text)).replaceAll('</', '<\\/') : stringLiteral(text);
}
