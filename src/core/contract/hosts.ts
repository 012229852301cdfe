/** Receivers of a host's values: builds that run there, and the server that runs there. */
export const hostScopes = ['build', 'server'] as const;
export type HostScope = (typeof hostScopes)[number];

/** A request to an API, with placeholders; see {@link placeholdersIn}. */
export interface RequestTemplate {
  method: string;
  url: string;
  headers: Readonly<Record<string, string>>;
  /** JSON, with placeholders in its strings. */
  body?: unknown;
}

/** How a program that manages a host's values is called. */
export interface HostCommand {
  kind: 'command';
  command: readonly string[];
  seconds: number;
}

/** Where the names and values of a host are listed. */
export type HostListing = { paths: ListingPaths } & (
  | { kind: 'file'; file: string }
  | HostCommand
  | { kind: 'http'; request: RequestTemplate; pages?: HostPages }
);

/** Pages by a number in the query, from `first` to the number at the path `last`, or to the first page without items. */
export interface NumberedPages {
  number: string;
  first: number;
  last?: string;
}

/** Pages by a text in the query that the page before has at the path `at`. */
export interface CursorPages {
  cursor: string;
  at: string;
}

/** How the pages of a listing are requested, if no path leads to the next URL. */
export type HostPages = NumberedPages | CursorPages;

/** Paths in a JSON listing, as names joined with dots. */
export interface ListingPaths {
  /** To the list, or to the map of names; the whole document if empty. */
  items: string;
  /** Within an item. */
  name: string;
  value: string;
  scope: string;
  /** To the stages that an item is for, if one list has those of all. */
  stage: string;
  /** To the host's own identifier of a value, for `change`. */
  id: string;
  /** To the URL of the next page. */
  next: string;
  /** Items whose values the host does not show: those with one of the words at the path. */
  hidden?: { path: string; is: readonly string[] };
}

/** How one value of a host is set. */
export type HostSetter = HostCommand | { kind: 'http'; request: RequestTemplate };

/** A platform on which a stage's values are set. */
export interface Host {
  name: string;
  /** The stages that it runs; all if absent. */
  stages?: readonly string[];
  /** Tells whether builds run there, a server, or both. */
  holds: readonly HostScope[];
  list: HostListing;
  set?: HostSetter;
  /** How a value that the host has is changed, if that is another request than {@link set}. */
  change?: HostSetter;
  /** The host's own word for each scope. */
  words: Readonly<Record<HostScope, string>>;
  /** The host's own names of stages, where they differ. */
  stageNames: Readonly<Record<string, string>>;
}

/** Tells whether a host runs a stage. */
export function hasStage({ stages }: Host, stage: string): boolean {
  return stages?.includes(stage) ?? true;
}

/** A stage as the host calls it. */
export function stageOnHost({ stageNames }: Host, stage: string): string {
  return stageNames[stage] ?? stage;
}

/** Names in braces. Lower-case ones stand for the value that is set, upper-case ones for a variable with a credential. */
export function placeholdersIn(template: string): string[] {
  return [...template.matchAll(/\{([A-Za-z_][A-Za-z0-9_]*)\}/g)].map(([, name]) => name as string);
}

/** Replaces placeholders; unknown ones stay. */
export function fillTemplate(template: string, values: (name: string) => string | undefined): string {
  return template.replace(/\{([A-Za-z_][A-Za-z0-9_]*)\}/g, (whole, name: string) => values(name) ?? whole);
}

/** Variables whose values go into the headers of a host's requests. */
export function credentialsOf({ list, set, change }: Host): string[] {
  const requests = [list, set, change].flatMap((one) => (one?.kind === 'http' ? [one.request] : []));
  const names = requests.flatMap(({ headers: all }) => Object.values(all).flatMap(placeholdersIn));
  return [...new Set(names.filter(isCredential))];
}

export function isCredential(name: string): boolean {
  return /^[A-Z_][A-Z0-9_]*$/.test(name);
}

/** A problem of an entry, with its path within the entry. */
export interface HostProblem {
  path: readonly string[];
  /** The variant of `contract/unreadable`, with its facts. */
  variant: HostProblemVariant;
  facts?: { name: string; known: readonly string[] };
}

type HostProblemVariant =
  | 'change-alone'
  | 'credential-in-url'
  | 'placeholder-in-header'
  | 'url'
  | 'password-in-url'
  | 'unencrypted'
  | 'placeholder'
  | 'value-in-url'
  | 'no-value'
  | 'no-name';

/** Checks that the schema cannot make: where placeholders may stand, and which URLs are safe. */
export function hostProblems({ list, set, change }: Host): HostProblem[] {
  return [
    ...(list.kind === 'http' ? requestProblems(list.request, ['list'], ['stage']) : []),
    ...(list.kind === 'command' ? wordProblems(list.command, ['list', 'command'], ['stage']) : []),
    ...(list.kind === 'file' ? templateProblems(list.file, ['list'], ['stage']) : []),
    ...(set ? setterProblems(set, 'set', ['stage', 'name']) : []),
    ...(change ? setterProblems(change, 'change', ['stage', 'name', 'id']) : []),
    ...(change && !set ? [{ path: ['change'], variant: 'change-alone' as const }] : []),
  ];
}

function setterProblems(setter: HostSetter, key: string, known: readonly string[]): HostProblem[] {
  if (setter.kind === 'http')
    return [...requestProblems(setter.request, [key], known), ...setProblems(setter.request, key, known)];
  const at = [key, 'command'];
  return [...wordProblems(setter.command, at, [...known, 'scope']), ...unnamed(setter.command.join(' '), at)];
}

function requestProblems({ url, headers }: RequestTemplate, path: string[], known: readonly string[]): HostProblem[] {
  const at = [...path, 'url'];
  const credential = placeholdersIn(url).find(isCredential);
  if (credential !== undefined) return [{ path: at, variant: 'credential-in-url', facts: { name: credential, known } }];
  const inHeaders = Object.entries(headers).flatMap(([name, value]) =>
    placeholdersIn(value)
      .filter((one) => !isCredential(one))
      .map((one) => ({
        path: [...path, 'headers', name],
        variant: 'placeholder-in-header' as const,
        facts: { name: one, known },
      })),
  );
  return [...templateProblems(url, at, known), ...urlProblems(url, at), ...inHeaders];
}

function urlProblems(template: string, path: string[]): HostProblem[] {
  const filled = fillTemplate(template, () => 'x');
  if (!URL.canParse(filled)) return [{ path, variant: 'url' }];
  const { protocol, hostname, username, password } = new URL(filled);
  if (username !== '' || password !== '') return [{ path, variant: 'password-in-url' }];
  const isLocal = /^(localhost|127(\.\d+){3}|\[::1\])$/.test(hostname) || hostname.endsWith('.localhost');
  if (protocol === 'https:' || (protocol === 'http:' && isLocal)) return [];
  return [{ path, variant: 'unencrypted' }];
}

function wordProblems(words: readonly string[], path: string[], known: readonly string[]): HostProblem[] {
  return words.flatMap((word) => templateProblems(word, path, known));
}

function templateProblems(template: string, path: string[], known: readonly string[]): HostProblem[] {
  const unknown = placeholdersIn(template).find((name) => !known.includes(name));
  if (unknown === undefined) return [];
  const variant = unknown === 'value' ? 'value-in-url' : 'placeholder';
  return [{ path, variant, facts: { name: unknown, known } }];
}

function setProblems({ url, body }: RequestTemplate, key: string, known: readonly string[]): HostProblem[] {
  const inBody = placeholdersIn(JSON.stringify(body ?? null));
  const all = [...known, 'value', 'scope', 'scopes'];
  const unknown = inBody.find((name) => !all.includes(name));
  if (unknown !== undefined)
    return [{ path: [key, 'body'], variant: 'placeholder', facts: { name: unknown, known: all } }];
  if (!inBody.includes('value')) return [{ path: [key], variant: 'no-value' }];
  return unnamed(`${url} ${inBody.map((name) => `{${name}}`).join(' ')}`, [key]);
}

function unnamed(template: string, path: string[]): HostProblem[] {
  if (placeholdersIn(template).some((one) => one === 'name' || one === 'id')) return [];
  return [{ path, variant: 'no-name' }];
}
