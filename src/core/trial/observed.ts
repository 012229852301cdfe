/** A place in a program: a file, relative to the project with slashes, and a line from 1; 0 if only the file is known. */
export interface CodePlace {
  path: string;
  line: number;
}

/** A name that a build asked its environment for. */
export interface Asked {
  name: string;
  /** Places in the project's own files; none if only packages asked. */
  at: CodePlace[];
  /** Places in packages that asked. */
  inPackages: string[];
}

/** One read as the observer writes it: the name, and the first frame outside of Node.js. */
export interface ObservedLine {
  name: string;
  file: string;
  line: number;
}

/** Reads the lines of the observer: JSON arrays of name, file and line. A killed process may leave half of one. */
export function observedLines(text: string): ObservedLine[] {
  return text.split('\n').flatMap((line) => {
    try {
      const [name, file, at] = JSON.parse(line) as unknown[];
      return typeof name === 'string' && typeof file === 'string' ? [{ name, file, line: Number(at) || 0 }] : [];
    } catch {
      return [];
    }
  });
}

/** Node.js itself asks for these in the name of the program that starts a process. */
function isOfNode(name: string): boolean {
  return /^NODE_(?!ENV$)/.test(name);
}

/** The names that were asked for, each with its places. @param shown a path of the project; undefined for any other file */
export function askedFor(lines: readonly ObservedLine[], shown: (file: string) => string | undefined): Asked[] {
  const found = new Map<string, Asked>();
  for (const { name, file, line } of lines) {
    if (isOfNode(name)) continue;
    const asked = found.get(name) ?? { name, at: [], inPackages: [] };
    found.set(name, asked);
    const path = shown(file);
    const [, inPackage] =
      /node_modules\/((?:@[^/]+\/)?[^/]+)\/(?!.*node_modules\/)/.exec(file.replaceAll('\\', '/')) ?? [];
    if (inPackage !== undefined) asked.inPackages = [...new Set([...asked.inPackages, inPackage])];
    else if (path !== undefined && !asked.at.some((one) => one.path === path && one.line === line))
      asked.at.push({ path, line });
  }
  return [...found.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
}
