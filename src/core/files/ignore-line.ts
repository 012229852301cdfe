/** A line of an ignore file, and the file that it belongs in. */
export interface IgnoreLine {
  line: string;
  /** Relative to the same directory as the path: a rule cannot reach above its own file. */
  file: string;
}

/** Finds the line that makes git ignore a file (gitignore). @param path relative, with `/` */
export function ignoreLineFor(path: string): IgnoreLine {
  const above = /^(\.\.\/)*/.exec(path)?.[0] ?? '';
  const line = path
    .slice(above.length)
    .replace(/[\\*?[]/g, '\\$&')
    .replace(/^[#!]/, '\\$&')
    .replace(/ +$/, (spaces) => '\\ '.repeat(spaces.length));
  return { line, file: `${above}.gitignore` };
}
