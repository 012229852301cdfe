import type { EnvFile } from './ast.js';

/** The file from its nodes: the same bytes as were parsed. */
export function writeEnvFile(file: EnvFile): Uint8Array {
  return Buffer.concat(file.nodes.map(({ start, end }) => file.bytes.subarray(start, end)));
}

/**
 * Changes one value of the file and no other byte; a name that the file does not have is added at the end.
 * Where a name is set twice, the line that wins is changed.
 * @throws RangeError when the value holds a NUL or half a surrogate pair, which no env file can hold
 */
export function setEnvValue(file: EnvFile, name: string, value: string): Uint8Array {
  const quoted = Buffer.from(quoteEnvValue(value));
  const entry = file.entries.findLast((candidate) => candidate.name === name);
  if (entry) {
    const { bytes } = file;
    return Buffer.concat([bytes.subarray(0, entry.valueStart), quoted, bytes.subarray(entry.valueEnd)]);
  }
  const text = Buffer.from(file.bytes);
  const eol = text.includes('\r\n') ? '\r\n' : '\n';
  const gap = text.length === 0 || text.at(-1) === 0x0a ? '' : eol;
  return Buffer.concat([text, Buffer.from(`${gap}${name}=`), quoted, Buffer.from(eol)]);
}

/** The text that stands for a value after the `=`, in the plainest quoting that reads back as that value. */
export function quoteEnvValue(value: string): string {
  if (value.includes('\0') || !value.isWellFormed())
    throw new RangeError('no env file can hold a NUL or half a character');
  if (/^[\w./:@%+,-]*$/.test(value)) return value;
  if (!/['\r]/.test(value)) return `'${value}'`;
  const escaped = value
    .replace(/[\\"$`]/g, '\\$&')
    .replaceAll('\r', '\\r')
    .replaceAll('\n', '\\n');
  return `"${escaped}"`;
}
