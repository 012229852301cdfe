/** The first words of generated files and of reports, which no other program writes. */
const beginnings = [
  /^(\/\/|#) Made by `adder /,
  /^(globalThis\.|export const )adderValues = /,
  /^\{\s*"report": \d+,\s*"command": "/,
  /^\{\s*"title": "adder\.yaml"/,
  /^adder [a-z]+( {2}|$)/,
];

/**
 * Whether a file's text is an earlier output of Adder, so that a new one may take its place.
 * @param old the file's text
 * @param text what would replace it: JSON without a mark of its own (defines, values) is known by a key in common
 */
export function isOwnOutput(old: string, text: string): boolean {
  const head = old.slice(0, 500);
  if (old.trim() === '' || old === text || beginnings.some((one) => one.test(head))) return true;
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
