import { isGenerated } from '../text/generated.js';

/** How other files and reports of Adder begin. */
const beginnings = [
  /^(globalThis\.|export const )adderValues = /,
  /^\{\s*"report": \d+,\s*"kind": "/,
  /^\{\s*"title": "adder\.yaml"/,
  /^adder [a-z]+( {2}|$)/,
];

/**
 * Tells whether a file's text is an earlier output of Adder, so that a new one may replace it.
 * @param old the file's text
 * @param text the new text: JSON without a mark (defines, values) is recognised by a common key
 */
export function isOwnOutput(old: string, text: string): boolean {
  const head = old.slice(0, 500);
  if (old.trim() === '' || old === text || isGenerated(old) || beginnings.some((one) => one.test(head))) return true;
  if (/"tool":\s*\{\s*"driver":\s*\{\s*"name": "Adder"/.test(head)) return true;
  const [before, after] = [keysOf(old), keysOf(text)];
  return before.some((key) => after.includes(key));
}

function keysOf(text: string): string[] {
  if (!text.startsWith('{')) return [];
  try {
    return Object.keys(JSON.parse(text));
  } catch {
    return [];
  }
}
