import type { EnvEntry } from '../ast.js';
import { partsOf, type Reader, type Reading } from './reader.js';

/**
 * The env-file option of container runtimes: everything after the first `=` of a line is the value, unchanged. There are no
 * quotes, comments after a value, references or `export`.
 */
export const container: Reader = {
  name: "a container runtime's env-file option",
  isExpected: false,
  read(line, entry) {
    const { exported, gap, value } = partsOf(line);
    if (exported) return { differences: ['refuses a line that starts with export'] };
    const [first = '', ...more] = value.split(/\r?\n/);
    const differences = differencesOf(first, gap, entry);
    if (more.some((line) => line !== '')) differences.push('reads only the first line');
    return { text: gap + first, differences };
  },
};

function differencesOf(
  first: string,
  gap: string,
  { quote, value, valueStart, valueEnd }: EnvEntry,
): Reading['differences'] {
  const length = valueEnd - valueStart;
  const hasReference = value.some(({ kind }) => kind === 'reference');
  return [
    gap !== '' && 'keeps the white space after =',
    quote !== 'none' && 'keeps the quotes as part of the value',
    hasReference && 'does not expand references',
    quote === 'none' && !hasReference && first.includes('\\$') && 'keeps the backslash before a dollar sign',
    Buffer.byteLength(first) > length && behind(Buffer.from(first).subarray(length).toString()),
  ].filter((phrase) => phrase !== false);
}

function behind(rest: string): string {
  return rest.trim() === '' ? 'keeps the white space at the end' : 'reads the comment as part of the value';
}
