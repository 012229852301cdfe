import { LineMap } from '../text/positions.js';

/**
 * Where a source text has a name as a whole word, in code, strings and comments alike: for a person who asks where a
 * variable is read, one place too many is better than one too few.
 * @returns lines and columns from 1
 */
export function mentionsOf(name: string, bytes: Uint8Array): { line: number; column: number }[] {
  const text = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const found: number[] = [];
  for (let at = text.indexOf(name); at >= 0; at = text.indexOf(name, at + 1)) {
    if (!isWordByte(text[at - 1]) && !isWordByte(text[at + name.length])) found.push(at);
  }
  if (found.length === 0) return [];
  const lines = new LineMap(bytes);
  return found.map((offset) => {
    const { line, column } = lines.at(offset);
    return { line, column };
  });
}

/** Names of environment variables that a source text reads in the usual ways. */
export function namesReadIn(text: string): string[] {
  const reads = /\b(?:import\.meta\.env|process\.env)(?:\?)?\.([A-Za-z_]\w*)/g;
  return [...text.matchAll(reads)].map(([, name = '']) => name);
}

function isWordByte(byte: number | undefined): boolean {
  return byte !== undefined && (/[A-Za-z0-9_$]/.test(String.fromCharCode(byte)) || byte >= 0x80);
}
