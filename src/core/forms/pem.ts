import type { Form } from './form.js';

/** One or more blocks of textual encoding (RFC 7468, section 2), with real line breaks. */
export const pem: Form = {
  name: 'pem',
  problem(text) {
    const begin = /^\s*-----BEGIN ([A-Z0-9 ]+)-----/.exec(text);
    if (!begin) return 'does not start with -----BEGIN ...-----';
    if (!text.includes('\n')) {
      return text.includes('\\n') ? 'has \\n instead of line breaks: put it in double quotes' : 'has no line breaks';
    }
    if (!text.trimEnd().endsWith(`-----END ${lastLabel(text)}-----`))
      return 'does not end with its -----END ...----- line';
    return isWhole(text) ? undefined : 'has a body that is not base64';
  },
  valid: String.raw`text.includes('\n') && /^\s*(-----BEGIN ([A-Z0-9 ]+)-----\r?\n(?:[\w-]+: .*\r?\n)*\r?\n?[A-Za-z0-9+/=\s]*?-----END \2-----\s*)+$/.test(text)`,
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: '-----BEGIN PUBLIC KEY-----\nbWFkZSB1cA==\n-----END PUBLIC KEY-----',
  foldable: false,
};

function lastLabel(text: string): string {
  return [...text.matchAll(/-----BEGIN ([A-Z0-9 ]+)-----/g)].at(-1)?.[1] ?? '';
}

/** Headers of encrypted keys (RFC 1421) may precede the body. */
function isWhole(text: string): boolean {
  const block = /-----BEGIN ([A-Z0-9 ]+)-----\r?\n(?:[\w-]+: .*\r?\n)*\r?\n?([A-Za-z0-9+/=\s]*?)-----END \1-----/g;
  return text.replace(block, '').trim() === '';
}
