/**
 * The files that importers of a package get, by its manifest: `main`, `module` and every path of `exports`, as Node.js and bundlers
 * resolve them ("Packages" in the documentation of Node.js). Without a leading `./`.
 * @param manifest the text of a `package.json`; a damaged one has none
 */
export function packageEntries(manifest: string): string[] {
  try {
    const { main, module, exports } = JSON.parse(manifest);
    return stringsIn([main, module, exports]).map((path) => path.replace(/^\.\//, ''));
  } catch {
    return [];
  }
}

function stringsIn(value: unknown): string[] {
  if (typeof value === 'string') return [value];
  return typeof value === 'object' && value !== null ? Object.values(value).flatMap(stringsIn) : [];
}
