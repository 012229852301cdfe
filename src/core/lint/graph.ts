import type { Import } from '../reads/read.js';

/** Questions of the graph to the world. */
export interface Modules {
  /** Paths that a file loads; none if the file is no source file of the project. */
  importsOf(path: string): readonly Import[];
  /** The file that a specifier means, or undefined for packages and what does not exist. */
  resolve(from: string, specifier: string): string | undefined;
  /** Tells whether the build copies what an import names as it is, without what that imports. */
  isCopied(imported: Import): boolean;
}

/** Files that ship. */
export interface Shipped {
  /** Each with its shortest chain of imports, itself last. */
  chains: Map<string, readonly string[]>;
  /** Files whose copies ship. */
  copied: Set<string>;
}

/**
 * All files that entries lead to, each with its shortest chain of imports: breadth first, in the order of the text.
 * @param stops files that are not followed, and do not count as shipped
 */
export function shippedFrom(entries: readonly string[], modules: Modules, stops: (path: string) => boolean): Shipped {
  const chains = new Map<string, readonly string[]>();
  const copied = new Map<string, readonly string[]>();
  const queue: string[] = [];
  const visit = (path: string, chain: readonly string[]) => {
    if (chains.has(path) || stops(path)) return;
    chains.set(path, chain);
    queue.push(path);
  };
  for (const entry of entries) visit(entry, [entry]);
  for (let next = queue.shift(); next !== undefined; next = queue.shift()) {
    const chain = chains.get(next) as readonly string[];
    for (const imported of modules.importsOf(next)) {
      const path = modules.resolve(next, imported.specifier);
      if (path === undefined) continue;
      if (!modules.isCopied(imported)) visit(path, [...chain, path]);
      else if (!stops(path) && !copied.has(path)) copied.set(path, [...chain, path]);
    }
  }
  for (const [path, chain] of copied) if (!chains.has(path)) chains.set(path, chain);
  return { chains, copied: new Set(copied.keys()) };
}
