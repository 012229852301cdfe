import type { EnvEntry } from '../envfile/ast.js';
import { parseEnvFile } from '../envfile/parse.js';

/** Marks the value of a name in a line: the text to write, or undefined to leave the value as it is. */
export type Mark = (name: string, value: string, line: number) => string | undefined;

/**
 * An env file with markers in the place of its values. Lines, names and references stay as they are, so that the order of files
 * and the expansion are the tool's own.
 */
export function markedEnvFile(bytes: Uint8Array, mark: Mark): Uint8Array {
  const file = parseEnvFile(bytes);
  const parts: Uint8Array[] = [];
  let at = 0;
  for (const entry of file.entries) {
    const marked = mark(entry.name, textOf(entry), file.at(entry.nameStart).line);
    if (marked === undefined) continue;
    parts.push(file.bytes.subarray(at, entry.valueStart), Buffer.from(written(entry, marked)));
    at = entry.valueEnd;
  }
  return Buffer.concat([...parts, file.bytes.subarray(at)]);
}

/** The value without what references stand for. */
function textOf({ value }: EnvEntry): string {
  return value.map((part) => (part.kind === 'text' ? part.text : '')).join('');
}

/** A value that is made of others is made of their markers. */
function written({ value }: EnvEntry, marked: string): string {
  const references = value.flatMap((part) => (part.kind === 'reference' ? [`\${${part.name}}`] : []));
  if (references.length > 0) return `"${[...references, marked].join('/')}"`;
  return /^[\w./:@,-]*$/.test(marked) ? marked : `'${marked.replaceAll("'", '')}'`;
}

/** A text with some string literals replaced. @param mark gets the text of each literal with its line and column, from 1 */
export function markedLiterals(
  text: string,
  mark: (value: string, line: number, column: number) => string | undefined,
): string {
  let line = 1;
  let lineStart = 0;
  const literals = /\n|(?:"((?:[^"\\\n]|\\.)*)"|'((?:[^'\\\n]|\\.)*)')(\s*:)?/g;
  return text.replaceAll(literals, (all, double, single, colon, offset: number) => {
    if (all === '\n') {
      line++;
      lineStart = offset + 1;
    }
    const value: string | undefined = double ?? single;
    // Before a colon it is a key.
    const marked = value === undefined || colon !== undefined ? undefined : mark(value, line, offset - lineStart + 1);
    return marked === undefined ? all : JSON.stringify(marked);
  });
}
