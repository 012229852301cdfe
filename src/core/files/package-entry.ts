import { jsonIn, stringValues } from '../text/json.js';

/**
 * The files that importers of a package get, by its manifest: `main`, `module` and every path of `exports`, as Node.js and bundlers
 * resolve them ("Packages" in the documentation of Node.js). Without a leading `./`.
 * @param manifest the text of a `package.json`; a damaged one has none
 */
export function packageEntries(manifest: string): string[] {
  const { main, module, exports } = (jsonIn(manifest) ?? {}) as { main?: unknown; module?: unknown; exports?: unknown };
  return stringValues([main, module, exports]).map(({ text }) => text.replace(/^\.\//, ''));
}
