import { type HostScope, hostScopes, type ListingPaths } from '../contract/hosts.js';
import { parseEnvFile } from '../envfile/parse.js';
import { Secret } from '../secrets/secret.js';

/** A name that a host has. */
export interface Listed {
  name: string;
  /** Absent if the host does not show it. */
  value?: Secret;
  /** Receivers of the value; absent if the host does not say. */
  scopes?: readonly HostScope[];
  /** The host's own identifier of the value. */
  id?: string;
}

/** A listing, or why a text is none, as a phrase after its source. */
export type Listing = { listed: Listed[]; items: number; document?: unknown } | { problem: string };

/** How a listing is read. */
export interface ListingFormat {
  paths: ListingPaths;
  /** The host's own word for each scope. */
  words: Readonly<Record<HostScope, string>>;
  /** The stage as the host calls it. */
  stage: string;
}

/**
 * Parses what a host lists: JSON (an object of names, a list of names, or a list of objects), an env file, or one name per line.
 * No message repeats a part of the text.
 */
export function parseListing(text: string, format: ListingFormat): Listing {
  const start = text.trimStart()[0];
  if (start === '{' || start === '[') return parseJson(text, format);
  if (text.includes('=')) return parseEnv(text);
  return parseNames(text);
}

function parseJson(text: string, { paths, words, stage }: ListingFormat): Listing {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    return { problem: 'is not valid JSON' };
  }
  const all = at(document, paths.items);
  const items = Array.isArray(all) ? all.filter((item) => isOfStage(item, paths, stage)) : all;
  if (Array.isArray(items)) {
    const listed = items.map((item) => itemOf(item, paths, words));
    if (listed.some((one) => one === undefined)) return { problem: `has an item without a name at "${paths.name}"` };
    return { listed: listed as Listed[], items: (all as unknown[]).length, document };
  }
  if (isObject(items)) {
    const listed = Object.entries(items).map(([name, item]): Listed => ({ ...factsOf(item, paths, words), name }));
    return { listed, items: listed.length, document };
  }
  const where = paths.items === '' ? 'the document' : `"${paths.items}"`;
  return { problem: `has no list of values at ${where}` };
}

/** An item that names no stage is for all. */
function isOfStage(item: unknown, paths: ListingPaths, stage: string): boolean {
  const given = paths.stage === '' ? undefined : at(item, paths.stage);
  if (given === undefined || given === null) return true;
  return Array.isArray(given) ? given.includes(stage) : given === stage;
}

function itemOf(item: unknown, paths: ListingPaths, words: ListingFormat['words']): Listed | undefined {
  if (typeof item === 'string') return { name: item };
  const name = at(item, paths.name);
  return typeof name === 'string' ? { ...factsOf(item, paths, words), name } : undefined;
}

function factsOf(item: unknown, paths: ListingPaths, words: ListingFormat['words']): Omit<Listed, 'name'> {
  if (!isObject(item))
    return item === null || item === undefined || isMask(item) ? {} : { value: new Secret(textOf(item)) };
  const value = at(item, paths.value);
  const scope = at(item, paths.scope);
  const isShown = value !== undefined && value !== null && !isMask(value) && !isHidden(item, paths);
  const id = paths.id === '' ? undefined : at(item, paths.id);
  const given = typeof scope === 'string' ? [scope] : Array.isArray(scope) ? scope : undefined;
  return {
    ...(isShown && { value: new Secret(textOf(value)) }),
    ...((typeof id === 'string' || typeof id === 'number') && { id: String(id) }),
    ...(given && { scopes: hostScopes.filter((one) => given.includes(words[one])) }),
  };
}

/** Tells whether the host has a value that it never shows: an item of a kind that the contract names. */
function isHidden(item: unknown, { hidden }: ListingPaths): boolean {
  return hidden?.is.includes(String(at(item, hidden.path))) ?? false;
}

/** Placeholders that hosts show instead of a hidden value. */
function isMask(value: unknown): boolean {
  return (
    typeof value === 'string' &&
    /^([*•●]{3,}|\[(hidden|masked|redacted|encrypted)\]|<(hidden|masked|redacted|encrypted)>)$/i.test(value)
  );
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}

/** The value at a dotted path; the document itself for an empty one. */
export function at(document: unknown, path: string): unknown {
  let value = document;
  for (const key of path === '' ? [] : path.split('.'))
    value = isObject(value) && Object.hasOwn(value, key) ? value[key] : undefined;
  return value;
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function parseEnv(text: string): Listing {
  const { entries, problems } = parseEnvFile(new TextEncoder().encode(text));
  const wrong = problems.find(({ code }) => code === 'file/syntax' || code === 'file/encoding');
  if (wrong) return { problem: `cannot be parsed as an env file in line ${wrong.start.line}` };
  // The last line of a name wins. A value with references is not known: what they mean, the host decides.
  const listed = entries.map(({ name, value }): [string, Listed] => {
    const isLiteral = value.every((part) => part.kind === 'text');
    const text = value.map((part) => (part.kind === 'text' ? part.text : '')).join('');
    return [name, { name, ...(isLiteral && { value: new Secret(text) }) }];
  });
  const last = [...new Map(listed).values()];
  return { listed: last, items: last.length };
}

function parseNames(text: string): Listing {
  const lines = text.split(/\r?\n/).map((line) => line.trim());
  const names = lines.filter((line) => line !== '' && !line.startsWith('#'));
  const wrong = names.findIndex((name) => !/^[A-Za-z_][A-Za-z0-9_]*$/.test(name));
  if (wrong >= 0) return { problem: 'is neither JSON, nor an env file, nor one name per line' };
  return { listed: names.map((name) => ({ name })), items: names.length };
}
