import type { Bundle } from '../../contract/contract.js';
import { finding } from '../../findings/finding.js';
import { readsInJavaScript } from '../../reads/javascript.js';
import type { Read } from '../../reads/read.js';
import { type Node, parseSyntax } from '../../syntax/parse.js';
import { walk } from '../../syntax/walk.js';
import { toolchainOf } from '../../toolchains/index.js';
import { isToolName } from '../../toolchains/known-names.js';
import type { LintFinding } from '../model.js';

/** A file of a package that code of a bundle loads. */
export interface PackageFile {
  package: string;
  text: string;
}

/** Packages in a bundle that read the environment; one finding each. */
export function dependencyRule(
  files: Iterable<PackageFile>,
  bundle: Pick<Bundle, 'name' | 'toolchain'>,
  place: string,
): LintFinding[] {
  const byPackage = new Map<string, { names: Set<string>; development: number }>();
  for (const { package: name, text } of files) {
    if (!text.includes('process.env') && !text.includes('import.meta.env')) continue;
    const found = byPackage.get(name) ?? { names: new Set<string>(), development: 0 };
    for (const read of readsInJavaScript(text, 'js', ['process.env', 'import.meta.env']).reads)
      if (read.kind !== 'assigned' && !isGiven(read, bundle)) found.names.add(read.name ?? 'the whole object');
    if (found.names.has('NODE_ENV')) found.development += developmentSize(text);
    if (found.names.size > 0) byPackage.set(name, found);
  }
  const packages = [...byPackage].sort(([a], [b]) => a.localeCompare(b)).map(([name, found]) => ({ name, ...found }));
  const onlyMode = packages.filter(({ names }) => names.size === 1 && names.has('NODE_ENV'));
  const others = packages.filter((one) => !onlyMode.includes(one));
  const at = { bundle: bundle.name, place: { path: place, inside: [] } };
  return [
    ...others.map(({ name, names, development: bytes }) =>
      finding('repo/dependency-reads', 'names', { package: name, bundle: bundle.name, names: [...names], bytes }, at),
    ),
    ...readsOfMode(onlyMode, bundle.name).map((one) => ({ ...one, ...at })),
  ];
}

/** Tells whether the build tool itself gives the value, such as `import.meta.env.DEV`. */
function isGiven({ object, name = '' }: Read, bundle: Pick<Bundle, 'toolchain'>): boolean {
  const tool = toolchainOf(bundle);
  return object === 'import.meta.env' && tool.reads.some(({ from }) => from === object) && isToolName(name, tool);
}

interface Reading {
  name: string;
  names: ReadonlySet<string>;
  development: number;
}

/** Most packages read only NODE_ENV, to leave out their checks; one finding for all of them. */
function readsOfMode(packages: readonly Reading[], bundle: string): LintFinding[] {
  if (packages.length === 0) return [];
  const bytes = packages.reduce((sum, { development }) => sum + development, 0);
  return [finding('repo/dependency-reads', 'mode', { packages: packages.map(({ name }) => name), bundle, bytes })];
}

/** How much text depends on tests of NODE_ENV, which a production build removes. */
function developmentSize(text: string): number {
  let size = 0;
  walk(parseSyntax(text, 'js').program, (node) => {
    if (node.type !== 'IfStatement') return undefined;
    const test = node.test as Node;
    const source = text.slice(test.start, test.end);
    if (!/NODE_ENV/.test(source)) return undefined;
    const dropped = /!==?\s*["']production["']|["']production["']\s*!==?/.test(source)
      ? (node.consequent as Node)
      : /===?\s*["']production["']|["']production["']\s*===?/.test(source)
        ? (node.alternate as Node | null)
        : null;
    if (!dropped) return undefined;
    size += dropped.end - dropped.start;
    return false;
  });
  return size;
}
