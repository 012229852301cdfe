/** How a bundle's code gets a value, according to an entry of `reads`. */
export type ReadFrom =
  /** `import.meta.env`: a member of an object. */
  | { kind: 'object'; path: string }
  /** `window.env()`: a call with the name. */
  | { kind: 'call'; path: string }
  /** `$env/static/public`: an import of the name from a module that a tool makes. */
  | { kind: 'module'; specifier: string }
  /** `$env/dynamic/public`: a member of `env`, which such a module exports and fills as the app runs. */
  | { kind: 'live'; specifier: string }
  /** `__*__`: a constant that a define option or the command line puts in. */
  | { kind: 'constant'; before: string; after: string }
  /** `useRuntimeConfig().public.*`: a key, in camel case, of what a framework makes of the environment as it starts. */
  | { kind: 'config'; path: string }
  /** Compile-time constants of Dart, `String.fromEnvironment('NAME')`. */
  | { kind: 'compiled' };

/** Tells whether values are read as the app runs, so that no build has to put them in. */
export function isReadLate(entry: string): boolean {
  const from = readFrom(entry);
  return from?.kind === 'config' || from?.kind === 'live';
}

/** Global constants that a define option replaces, such as `FERRY_API_URL`. */
export const DEFINE_CONSTANTS = 'define-constants';

export const DART_READS = 'string-from-environment';

const path = String.raw`[A-Za-z_$][\w$]*(\.[A-Za-z_$][\w$]*)*`;
const objectPattern = new RegExp(`^${path}$`);
const callPattern = new RegExp(`^(${path})\\(\\)$`);
const configPattern = new RegExp(`^(${path}(\\(\\))?(\\.[A-Za-z_$][\\w$]*)*)\\.\\*$`);
const constantPattern = /^([A-Za-z_$][\w$]*|)\*([\w$]*)$/;
/** Modules whose export `env` is an object of values. */
export const liveModules: ReadonlySet<string> = new Set(['$env/dynamic/public', '$env/dynamic/private']);
const modulePattern = /^[^\s'"`*()]*[/:#][^\s'"`*()]*$/;

const known = new Map<string, ReadFrom | undefined>();

/** Called for every module, so results are cached. @returns undefined for an unknown entry */
export function readFrom(entry: string): ReadFrom | undefined {
  if (!known.has(entry)) known.set(entry, understood(entry));
  return known.get(entry);
}

function understood(entry: string): ReadFrom | undefined {
  if (entry === DART_READS) return { kind: 'compiled' };
  if (entry === DEFINE_CONSTANTS) return { kind: 'constant', before: '', after: '' };
  if (liveModules.has(entry)) return { kind: 'live', specifier: entry };
  if (objectPattern.test(entry)) return { kind: 'object', path: entry };
  const call = callPattern.exec(entry)?.[1];
  if (call !== undefined) return { kind: 'call', path: call };
  const config = configPattern.exec(entry)?.[1];
  if (config !== undefined) return { kind: 'config', path: config };
  const [, before = '', after = ''] = constantPattern.exec(entry) ?? [];
  // A bare `*` would take every global name for a value; see DEFINE_CONSTANTS.
  if (before !== '' || after !== '') return { kind: 'constant', before, after };
  return modulePattern.test(entry) ? { kind: 'module', specifier: entry } : undefined;
}

/** The code that reads a name. A module also needs an import. */
export function readExpression(from: ReadFrom, name: string): string {
  switch (from.kind) {
    case 'object':
      return `${from.path}.${name}`;
    case 'call':
      return `${from.path}('${name}')`;
    case 'module':
      return name;
    case 'live':
      return `env.${name}`;
    case 'constant':
      return from.before + name + from.after;
    case 'config':
      return `${from.path}.${camelCase(name)}`;
    case 'compiled':
      return `String.fromEnvironment('${name}')`;
  }
}

/** `FERRY_API_URL` as a key of a runtime configuration: `ferryApiUrl`. */
export function camelCase(name: string): string {
  return name.toLowerCase().replace(/_+([a-z0-9])/g, (_, letter: string) => letter.toUpperCase());
}
