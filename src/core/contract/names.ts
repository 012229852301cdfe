import { table } from '../text/table.js';
import { toolchainOf } from '../toolchains/index.js';
import { camelCase, type ReadFrom, readExpression, readFrom } from '../toolchains/read-from.js';
import type { Bundle, Contract, Variable } from './contract.js';

/** Tells whether a bundle's build gets the variable: what it may read, and what the contract does not keep from it. */
export function belongsTo(bundle: Bundle, variable: Variable): boolean {
  if (bundle.serverPart && belongsTo(bundle.serverPart, variable)) return true;
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
  const plain = variable.reach !== 'public' || prefixOf(bundle, variable.name) !== undefined;
  return plain ? variable.name : usualPrefix(bundle, variable) + variable.name;
}

/** A value that is read as the app runs has the prefix of a way that does so, if the tool has one. */
function usualPrefix({ prefixes, ...bundle }: Bundle, { delivery }: Variable): string {
  const late = toolchainOf(bundle).reads.find(
    ({ time, side, prefix }) => time === 'run' && side !== 'server' && prefix,
  );
  const isLate = delivery === 'runtime' && late !== undefined && prefixes.includes(late.prefix);
  return (isLate ? late.prefix : prefixes[0]) ?? '';
}

/** The prefix that a name has in a bundle's code; undefined if it has none of them. */
export function prefixOf({ prefixes }: Pick<Bundle, 'prefixes'>, name: string): string | undefined {
  return prefixes.find((prefix) => name.startsWith(prefix));
}

/** A name without the bundle's prefix. */
export function withoutPrefix(bundle: Pick<Bundle, 'prefixes'>, name: string): string {
  return name.slice(prefixOf(bundle, name)?.length ?? 0);
}

/** The names of a variable in the bundles that get it. */
export function namesOf(contract: Contract, variable: Variable): Record<string, string> {
  const bundles = [...contract.bundles.values()].filter((bundle) => belongsTo(bundle, variable));
  return table(Object.fromEntries(bundles.map((bundle) => [bundle.name, nameIn(bundle, variable)])));
}

/**
 * The names under which a layer may set a variable: its own, older ones, and for a public one those that bundles read, because tools
 * take them from env files by that name. A name with an entry of its own is that variable's alone.
 */
export function settableNames(contract: Contract, variable: Variable): string[] {
  const read = variable.reach === 'public' ? Object.values(namesOf(contract, variable)) : [];
  const own = [variable.name, ...variable.aka];
  return [...own, ...new Set(read.filter((name) => !own.includes(name) && !contract.variables.has(name)))];
}

/** Every name that a variable has in files and code: its own, older ones, and those that bundles read. */
export function allNamesOf(contract: Contract, variable: Variable): string[] {
  return [...new Set([variable.name, ...variable.aka, ...Object.values(namesOf(contract, variable))])];
}

/** The variable that each name means; of two with the same name, the first of the contract. */
export function variablesByName(contract: Contract): Map<string, Variable> {
  const all = [...contract.variables.values()].toReversed();
  return new Map(all.flatMap((variable) => allNamesOf(contract, variable).map((name) => [name, variable] as const)));
}

/** A variable as the code of a bundle may refer to it: its name, a key of the framework's configuration, a constant. */
export function writtenNames(bundle: Bundle, variable: Variable): string[] {
  const name = nameIn(bundle, variable);
  const written = replacedObjects(bundle).flatMap((entry) => {
    const from = readFrom(entry);
    if (from?.kind === 'constant') return [readExpression(from, name)];
    if (from?.kind !== 'config') return [];
    return [camelCase(withoutPrefix(bundle, name)), camelCase(variable.name)];
  });
  return [...new Set([name, ...written])];
}

/** Every object that a bundle's tool replaces reads of, the usual one first. */
export function replacedObjects(bundle: Bundle): readonly string[] {
  if (bundle.reads) return bundle.reads;
  return toolchainOf(bundle).reads.map(({ from }) => from);
}

/**
 * How a bundle's code reads a value: the first of its ways that works anywhere in a module.
 * @param name the name in code; its prefix decides, if the toolchain has several
 */
export function readsFrom(bundle: Bundle, name?: string): ReadFrom {
  const fitting = toolchainOf(bundle).reads.find(
    ({ prefix, side, from }) =>
      side !== 'server' && prefix !== '' && name?.startsWith(prefix) && replacedObjects(bundle).includes(from),
  );
  const own = fitting && readFrom(fitting.from);
  if (own) return own;
  const ways = replacedObjects(bundle).flatMap((entry) => readFrom(entry) ?? []);
  const plain = ways.find(({ kind }) => kind !== 'config' && kind !== 'live');
  return plain ?? ways[0] ?? { kind: 'object', path: 'process.env' };
}
