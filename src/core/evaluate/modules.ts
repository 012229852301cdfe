import { posix } from 'node:path';
import { member } from './operations.js';
import { keyOf, known, listOf, nothing, type Origin, objectOf, unknown, type Value } from './value.js';

/** `import.meta` of a module. */
export function metaOf(path: string): Value {
  const environment: Value = { kind: 'environment', prefixes: [''], at: { path, start: 0, end: 0 } };
  return objectOf([
    ['dirname', known(posix.dirname(path))],
    ['filename', known(path)],
    ['url', known(path)],
    ['env', environment],
  ]);
}

/** An export of a module; a CommonJS module has its default export as fields, too. */
export function imported(module: Value, name: string): Value {
  if (module.kind === 'foreign' && name === 'default') return module;
  const own = member(module, known(name));
  const isMissing = own.kind === 'known' && own.value === undefined;
  return isMissing && module.kind === 'object' ? member(member(module, known('default')), known(name)) : own;
}

/** A name that no scope declares. */
export function globalValue(name: string): Value {
  if (name === 'undefined') return nothing;
  if (name === 'NaN' || name === 'Infinity') return known(Number(name));
  return { kind: 'foreign', name };
}

/** The value of a module that is JSON. */
export function valueOfJson(text: string): Value {
  try {
    return ofData(JSON.parse(text));
  } catch {
    return unknown;
  }
}

/** A value of JSON data. */
function ofData(data: unknown): Value {
  if (Array.isArray(data)) return listOf(data.map(ofData));
  if (typeof data !== 'object' || data === null) return known(data as string | number | boolean | null);
  return objectOf(Object.entries(data).map(([key, value]) => [key, ofData(value)]));
}

/** `loadEnv(mode, directory, prefixes)`, as Vite has it: without prefixes, only names with the usual one. */
export function loadedEnvironment(args: readonly Value[], at: Origin): Value {
  const given = args[2];
  const texts = given?.kind === 'list' ? given.items.map(keyOf) : given ? [keyOf(given)] : [];
  const isUsual = given === undefined || (given.kind === 'known' && given.value === undefined);
  const prefixes = isUsual ? ['VITE_'] : texts.every((one) => one !== undefined) ? texts : [''];
  return { kind: 'environment', prefixes: prefixes as string[], at };
}
