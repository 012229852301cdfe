import type { Import } from '../reads/read.js';

/** Questions of the graph to the world. */
export interface Modules {
  /** Paths that a file loads; none if the file is no source file of the project. */
  importsOf(path: string): readonly Import[];
  /** The file that a specifier means, or undefined for packages and what does not exist. */
  resolve(from: string, specifier: string): string | undefined;
}

/**
 * All files that entries lead to, each with its shortest chain of imports: breadth first, in the order of the text.
 * @param stops files that are not followed, and do not count as shipped
 */
export function shippedFrom(
  entries: readonly string[],
  modules: Modules,
  stops: (path: string) => boolean,
): Map<string, readonly string[]> {
  const chains = new Map<string, readonly string[]>();
  const queue: string[] = [];
  const visit = (path: string, chain: readonly string[]) => {
    if (chains.has(path) || stops(path)) return;
    chains.set(path, chain);
    queue.push(path);
  };
  for (const entry of entries) visit(entry, [entry]);
  for (let next = queue.shift(); next !== undefined; next = queue.shift()) {
    const chain = chains.get(next) as readonly string[];
    for (const { specifier } of modules.importsOf(next)) {
      const path = modules.resolve(next, specifier);
      if (path !== undefined) visit(path, [...chain, path]);
    }
  }
  return chains;
}
