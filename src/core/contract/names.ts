import { table } from '../text/table.js';
import { toolchainOf } from '../toolchains/index.js';
import { camelCase, type ReadFrom, readExpression, readFrom } from '../toolchains/read-from.js';
import type { Bundle, Contract, Variable } from './contract.js';

/** Whether a bundle's build gets the variable: what it may read, and what the contract does not keep from it. */
export function belongsTo(bundle: Bundle, variable: Variable): boolean {
  if (variable.reach === 'server' && bundle.runs !== 'server') return false;
  return variable.bundles?.includes(bundle.name) ?? true;
}

/**
 * The name under which a bundle's code reads a variable: the one in `names`, or a public one's name with the bundle's prefix,
 * unless it already starts with it. A build variable keeps its plain name, because bundlers inline by prefix.
 */
export function nameIn(bundle: Bundle, variable: Variable): string {
  const given = variable.names[bundle.name];
  if (given !== undefined) return given;
  const plain = variable.reach !== 'public' || variable.name.startsWith(bundle.prefix);
  return plain ? variable.name : bundle.prefix + variable.name;
}

/** The names of a variable in the bundles that get it. */
export function namesOf(contract: Contract, variable: Variable): Record<string, string> {
  const bundles = [...contract.bundles.values()].filter((bundle) => belongsTo(bundle, variable));
  return table(Object.fromEntries(bundles.map((bundle) => [bundle.name, nameIn(bundle, variable)])));
}

/** A variable as the code of a bundle may refer to it: its name, a key of the framework's configuration, a constant. */
export function writtenNames(bundle: Bundle, variable: Variable): string[] {
  const name = nameIn(bundle, variable);
  const written = replacedObjects(bundle).flatMap((entry) => {
    const from = readFrom(entry);
    if (from?.kind === 'constant') return [readExpression(from, name)];
    if (from?.kind !== 'config') return [];
    const bare = name.startsWith(bundle.prefix) ? name.slice(bundle.prefix.length) : name;
    return [camelCase(bare), camelCase(variable.name)];
  });
  return [...new Set([name, ...written])];
}

/** Every object that a bundle's tool replaces reads of, the usual one first. */
export function replacedObjects(bundle: Bundle): readonly string[] {
  if (bundle.reads) return bundle.reads;
  return toolchainOf(bundle).reads.map(({ from }) => from);
}

/** How a bundle's code reads a value: the first of its ways that works anywhere in a module. */
export function readsFrom(bundle: Bundle): ReadFrom {
  const ways = replacedObjects(bundle).flatMap((entry) => readFrom(entry) ?? []);
  return ways.find(({ kind }) => kind !== 'config' && kind !== 'live') ?? { kind: 'object', path: 'process.env' };
}
