import { type EvaluateHow, evaluate } from '../evaluate/interpreter.js';
import {
  type Carried,
  carriedBy,
  isOpen,
  type ObjectValue,
  type Origin,
  optionsOf,
  textOf,
  type Value,
} from '../evaluate/value.js';
import { table } from '../text/table.js';

/** A value that a configuration gives to the code of the app. */
export interface Pass {
  /** How code reads it: `process.env.NAME`, `__NAME__`, or the key in an object that the tool has for this. */
  read: string;
  /** The variables whose values are in it, each with the place that reads it. */
  carries: Carried;
  /** Where the configuration gives it. */
  at: Origin;
}

/** A text that stands for a missing variable of the environment. */
export interface Fallback {
  name: string;
  text: string;
  at: Origin;
}

/** Constant parts of a build's configuration. The configuration is parsed, never run. */
export interface BuildSettings {
  /** `envPrefix`: the prefixes of the names that the tool inlines. */
  prefixes?: readonly string[];
  /** The directory of sources and pages, `root`. */
  root?: string;
  /** The directory of env files, `envDir`, relative to `root`; false if the tool loads none. */
  envFolder?: string | false;
  /** The output directory, or several, relative to the configuration. */
  output?: string | readonly string[];
  /** A word for the kind of output, such as `export`, `standalone`, `server` or `static`. */
  mode?: string;
  /** Entry files that it names. */
  entries: readonly string[];
  /** Modules that it imports, such as adapters, without those of the project that were followed. */
  imports: readonly string[];
  /** True if it builds one program for Node.js, which no browser gets. */
  isNode?: true;
  /** Lines that the build runs, if its command is known. */
  lines: readonly string[];
  /** Functions and classes that it calls, by the last part of their names. */
  calls: ReadonlySet<string>;
  /** Variables of the environment that it reads, each with a place. */
  reads: Carried;
  /** Texts that stand for missing variables of the environment. */
  fallbacks: readonly Fallback[];
  /** Env files that it loads in any case, by paths that are relative to the package. */
  loads: readonly { file: string; at: Origin }[];
  /** Names that it inlines one by one, without a prefix: `env`, `EnvironmentPlugin`, `process.env.X` in a define option. */
  inlined: readonly string[];
  /** Expressions that define options replace: `process.env.NAME`, `__NAME__`. */
  defined: readonly string[];
  /** Names of the code to the name of the environment that each has the value of, where these differ: `env: { apiUrl: process.env.API_URL }`. */
  renamed: Readonly<Record<string, string>>;
  /** Values that it gives to code. */
  passes: readonly Pass[];
  /** Variables of the environment that it sets itself. */
  assigned: readonly Pass[];
  /** Keys of `runtimeConfig`, as paths: `public.apiBase`. */
  runtimeKeys: readonly string[];
  /** Settings that are present, but not constant. */
  unknown: readonly string[];
}

/** Settings of a package without a configuration that Adder can read. */
export const noSettings: BuildSettings = {
  entries: [],
  imports: [],
  lines: [],
  calls: new Set(),
  reads: new Map(),
  fallbacks: [],
  loads: [],
  inlined: [],
  defined: [],
  renamed: {},
  passes: [],
  assigned: [],
  runtimeKeys: [],
  unknown: [],
};

/** Reads one setting of a configuration. `parent` is the key of the object around it; empty at the top. */
export type ReadSetting = (found: SettingsReader, value: Value, parent: string, at: Origin) => void;

/** Configuration file names of a tool. Each tool's file has its own. */
export interface ConfigKeys {
  /** Keys of objects, at any depth. */
  keys: Readonly<Record<string, ReadSetting>>;
  /** Calls and constructors, such as `new DefinePlugin(...)`, by name; the first argument is read. */
  calls?: Readonly<Record<string, ReadSetting>>;
  /** Reads the whole configuration, as it is exported. */
  exported?: ReadSetting;
  /** Functions that load env files in a configuration. */
  loaders?: readonly string[];
  /** Keys of the object that an exported function gets; any arguments if absent. */
  argument?: readonly string[];
}

/** The keys of several tools that have a configuration file in common. */
export function joinedKeys(all: readonly ConfigKeys[]): ConfigKeys {
  return {
    keys: table(Object.assign({}, ...all.map(({ keys }) => keys))),
    calls: table(Object.assign({}, ...all.map(({ calls }) => calls))),
    loaders: all.flatMap(({ loaders = [] }) => loaders),
    ...argumentOf(all),
    exported: (...given) => {
      for (const { exported } of all) exported?.(...given);
    },
  };
}

/** The keys of the only object that functions of all these tools get. */
function argumentOf([first, ...others]: readonly ConfigKeys[]): Pick<ConfigKeys, 'argument'> {
  const isSame = others.every(({ argument }) => argument?.join() === first?.argument?.join());
  return first?.argument && isSame ? { argument: first.argument } : {};
}

/** How a configuration is read. */
export type SettingsHow = Pick<EvaluateHow, 'folder' | 'load' | 'names'>;

/** Reads the settings of a configuration file in JavaScript or TypeScript. A file that cannot be parsed has none. */
export function settingsOf(path: string, text: string, config: ConfigKeys, how: SettingsHow = {}): BuildSettings {
  const reader = new SettingsReader();
  // Settings are read at the end, because code may change a value after it was seen.
  const seen: (() => void)[] = [];
  const { keys, calls = {} } = config;
  const hasDefines = keys.define !== undefined || calls.DefinePlugin !== undefined;
  const names = new Set<string>();
  const reads = new Map<string, Origin>();
  const fallbacks: Fallback[] = [];
  const loads: BuildSettings['loads'][number][] = [];
  const { exported, imports, isWhole, isParsed } = evaluate(
    path,
    text,
    {
      field: (key, value, parent, at) => {
        const read = Object.hasOwn(keys, key) ? keys[key] : undefined;
        if (read) seen.push(() => read(reader, value, parent, at));
        // A hook of a tool changes the options that another plugin has: `options['process.env'].NAME = value`.
        const isDefined = hasDefines && /^(process|import\.meta)\.env$/.test(parent);
        if (isDefined) seen.push(() => reader.replacedBy(`${parent}.${key}`, value, at));
      },
      call: (name, [first], at) => {
        const read = Object.hasOwn(calls, name) ? calls[name] : undefined;
        if (first && read) seen.push(() => read(reader, first, '', at));
        names.add(name);
      },
      read: (name, at) => void reads.set(name, at),
      load: (file, at) => void loads.push({ file, at }),
      fallback: (name, text, at) => void fallbacks.push({ name, text, at }),
      environment: (name, value, at) => reader.assigned(name, value, at),
    },
    {
      ...how,
      ...(config.loaders && { loaders: config.loaders }),
      ...(config.argument && { argument: config.argument }),
    },
  );
  if (!isParsed) return { ...noSettings, unknown: ['the file, which cannot be parsed'] };
  for (const read of seen) read();
  config.exported?.(reader, exported, '', { path, start: 0, end: 0 });
  if (!isWhole) reader.unknown('more than Adder follows');
  return { ...reader.settings(), imports, lines: [], calls: names, reads, fallbacks, loads };
}

/** The settings of several configuration files of one build: of each setting the first one, of lists all. */
export function mergedSettings(all: readonly BuildSettings[]): BuildSettings {
  const first = Object.assign({}, ...all.toReversed()) as Partial<BuildSettings>;
  return {
    ...first,
    entries: all.flatMap(({ entries }) => entries),
    imports: all.flatMap(({ imports }) => imports),
    lines: all.flatMap(({ lines }) => lines),
    calls: new Set(all.flatMap(({ calls }) => [...calls])),
    reads: new Map(all.flatMap(({ reads }) => [...reads])),
    fallbacks: distinct(all.flatMap(({ fallbacks }) => fallbacks)),
    loads: distinct(all.flatMap(({ loads }) => loads)),
    inlined: all.flatMap(({ inlined }) => inlined),
    defined: all.flatMap(({ defined }) => defined),
    renamed: table(Object.assign({}, ...all.map(({ renamed }) => renamed))),
    passes: distinct(all.flatMap(({ passes }) => passes)),
    assigned: distinct(all.flatMap(({ assigned }) => assigned)),
    runtimeKeys: all.flatMap(({ runtimeKeys }) => runtimeKeys),
    unknown: all.flatMap(({ unknown }) => unknown),
  };
}

/** Several configurations may import the same file. */
function distinct<One>(all: readonly One[]): One[] {
  const keyOf = (one: One) => JSON.stringify(one, (_, value) => (value instanceof Map ? [...value.keys()] : value));
  return [...new Map(all.map((one) => [keyOf(one), one])).values()];
}

/** The settings of one configuration file as they are read. */
export class SettingsReader {
  #prefixes: string[] | undefined;
  #root: string | undefined;
  #envFolder: string | false | undefined;
  #output: string | readonly string[] | undefined;
  #mode: string | undefined;
  readonly #platforms: (string | undefined)[] = [];
  #builds = 0;
  readonly #entries = new Set<string>();
  readonly #inlined = new Set<string>();
  readonly #defined = new Set<string>();
  readonly #renamed = new Map<string, string>();
  readonly #passes = new Map<string, Pass>();
  readonly #assigned = new Map<string, Pass>();
  readonly #runtimeKeys = new Set<string>();
  readonly #unknown = new Set<string>();

  settings(): Omit<BuildSettings, 'imports' | 'lines' | 'calls' | 'reads' | 'fallbacks' | 'loads'> {
    return {
      ...(this.#prefixes && { prefixes: this.#prefixes }),
      ...(this.#root !== undefined && { root: this.#root }),
      ...(this.#envFolder !== undefined && { envFolder: this.#envFolder }),
      ...(this.#output !== undefined && { output: this.#output }),
      ...(this.#mode !== undefined && { mode: this.#mode }),
      // A file with several builds may have one for each side.
      ...(this.#builds <= 1 && this.#platforms.length === 1 && isNodePlatform(this.#platforms[0]) && { isNode: true }),
      entries: [...this.#entries],
      inlined: [...this.#inlined],
      defined: [...this.#defined],
      renamed: table(Object.fromEntries(this.#renamed)),
      passes: [...this.#passes.values()],
      assigned: [...this.#assigned.values()],
      runtimeKeys: [...this.#runtimeKeys],
      unknown: [...this.#unknown],
    };
  }

  /** Notes a setting that only running the configuration would tell. */
  unknown(setting: string): void {
    this.#unknown.add(setting);
  }

  prefix(value: Value): void {
    const found = texts(value);
    if (found.length > 0) this.#prefixes = found;
    else this.unknown('envPrefix');
  }

  root(value: Value): void {
    const found = textOf(value);
    if (found === undefined) this.unknown('root');
    else this.#root ??= found;
  }

  envFolder(value: Value): void {
    const isNone = optionsOf(value).some((one) => one.kind === 'known' && one.value === false);
    const found = isNone ? false : textOf(value);
    if (found === undefined) this.unknown('envDir');
    else this.#envFolder ??= found;
  }

  output(value: Value, setting: string): void {
    // A directory that the environment may change has its usual name in the text: `process.env.BUILD_PATH || 'build'`.
    const texts = optionsOf(value).flatMap((one) => textOf(one) ?? []);
    const isUsual = texts.length === 1 && optionsOf(value).every(({ kind }) => /^(known|opaque)$/.test(kind));
    const found = isUsual ? texts[0] : undefined;
    if (found === undefined) this.unknown(setting);
    else this.#output ??= found.replace(/^\.?\//, '');
  }

  outputFile(value: Value): void {
    const file = textOf(value);
    if (file === undefined) this.unknown('the output file');
    else this.#output ??= folderOfFile(file.replace(/^\.?\//, ''));
  }

  /** A list of kinds of output, each with a `type` and maybe a `dir`. @param usual the directory of each kind */
  outputs(value: Value, usual: Readonly<Record<string, string>>): void {
    const targets = value.kind === 'list' ? value.items : [];
    const found = targets.flatMap((target) => {
      const text = (key: string) => (target.kind === 'object' ? textOf(target.fields.get(key)) : undefined);
      return text('dir') ?? usual[text('type') ?? ''] ?? [];
    });
    if (found.length > 0) this.#output ??= [...new Set(found)];
  }

  /** `output: 'export'` is a kind of output; `output: { path }` and `output: 'dir'` are read elsewhere. */
  mode(value: Value): void {
    const text = textOf(value);
    if (text !== undefined && /^(export|standalone|server|static|hybrid|[a-z]+-(static|pages))$/.test(text))
      this.#mode ??= text;
  }

  platform(value: Value): void {
    this.#platforms.push(textOf(value));
  }

  /** The entries of one build. */
  entries(value: Value): void {
    this.#builds++;
    this.entry(value);
  }

  entry(value: Value): void {
    if (value.kind === 'object') for (const one of value.fields.values()) this.entry(one);
    if (value.kind === 'list') for (const one of value.items) this.entry(one);
    const found = textOf(value);
    if (found !== undefined && /^\.{0,2}\/?[\w@.][\w@./-]*$/.test(found))
      this.#entries.add(found.replace(/^\.?\//, ''));
  }

  /** Names that a plugin takes from the environment: a list, or an object with a key for each. */
  names(value: Value, at: Origin): void {
    const names = [
      ...texts(value),
      ...optionsOf(value).flatMap((one) => (one.kind === 'object' ? [...one.fields.keys()] : [])),
    ];
    if (isOpen(value)) this.unknown('its names');
    for (const name of names) {
      this.#inlined.add(name);
      this.#pass({ read: `process.env.${name}`, carries: new Map([[name, at]]), at });
    }
  }

  env(value: Value, at: Origin): void {
    if (isOpen(value)) this.unknown('env');
    this.values(value, at);
  }

  /** An object whose values are put into the app. */
  values(value: Value, at: Origin): void {
    this.#eachField(value, at, (name, inner, place) => {
      this.#inlined.add(name);
      this.#give(name, name, inner, place);
    });
  }

  /** @param isText tells whether the tool replaces texts, and so no part of a longer expression */
  define(value: Value, at: Origin, isText = false): void {
    if (isOpen(value)) this.unknown('define');
    this.#eachField(value, at, (read, inner, place) => {
      const isObject = read === 'process.env' || read === 'import.meta.env';
      if (isObject && !isText) this.#wholeEnvironment(read, inner, place);
      else this.replacedBy(read, inner, place);
    });
  }

  /** An expression of code that the tool replaces by a value. */
  replacedBy(read: string, value: Value, at: Origin): void {
    const isNothing = value.kind === 'json' ? isUndefined(value.of) : isUndefined(value);
    if (isNothing) return;
    const [, name] = /^(?:process\.env|import\.meta\.env)\.(\w+)$/.exec(read) ?? [];
    if (name !== undefined) this.#inlined.add(name);
    this.#defined.add(read);
    this.#give(name, read, value, at);
  }

  /** `'process.env': { NAME: ... }` inlines its names; anything else may inline every name. */
  #wholeEnvironment(read: string, value: Value, at: Origin): void {
    const object = value.kind === 'json' ? value.of : value;
    if (object.kind === 'object')
      this.#eachField(object, at, (name, inner, place) => this.replacedBy(`${read}.${name}`, inner, place));
    if (object.kind !== 'object' || isOpen(object)) this.unknown('define');
    if (object.kind !== 'object') this.#give(undefined, read, object, at);
  }

  /** Notes a value that code gets, and the variable whose name differs from that of the code. */
  #give(name: string | undefined, read: string, value: Value, at: Origin): void {
    const carries = carriedBy([value]);
    const [only] = carries.keys();
    const isText = optionsOf(value).every(({ kind }) => /^(known|opaque|json)$/.test(kind));
    if (name !== undefined && only !== undefined && carries.size === 1 && only !== name && isText)
      this.#renamed.set(name, only);
    this.#pass({ read, carries, at });
  }

  #pass(one: Pass): void {
    // One value may be a setting of its own, and a part of what ships as a whole.
    const key = [one.at.path, one.at.start, ...one.carries.keys()].join(' ');
    if (!this.#passes.has(key)) this.#passes.set(key, one);
  }

  /** `process.env.NAME = value` in the configuration. */
  assigned(name: string, value: Value, at: Origin): void {
    this.#assigned.set(`${name} ${at.path}:${at.start}`, { read: name, carries: carriedBy([value]), at });
  }

  #eachField(value: Value, at: Origin, tell: (key: string, value: Value, at: Origin) => void): void {
    for (const one of optionsOf(value)) {
      const rest = one.kind === 'object' ? [...one.others, ...one.spread] : [one];
      // Fields whose names are not known carry values, too.
      const carries = carriedBy(rest);
      if (carries.size > 0) this.#pass({ read: '', carries, at });
      if (one.kind === 'object') eachOwn(one, at, tell);
    }
  }

  /** Options of a plugin that replaces texts: the texts are its keys, or those of `values`. */
  replaced(value: Value, at: Origin): void {
    const inner = value.kind === 'object' ? value.fields.get('values') : undefined;
    this.define(inner ?? value, at, true);
  }

  /** A configuration that ships as a whole. @param path the keys that lead to the value */
  shipped(value: Value, at: Origin, path: readonly string[] = []): void {
    for (const one of optionsOf(value)) {
      if (path.length > DEEPEST) return;
      if (one.kind === 'function') this.shipped(one.call([]), at, path);
      else if (one.kind === 'object')
        eachOwn(one, at, (key, inner, place) => this.shipped(inner, place, [...path, key]));
      else if (one.kind === 'list') for (const item of one.items) this.shipped(item, at, path);
      else if (carriedBy([one]).size > 0) this.#pass({ read: path.join('.'), carries: carriedBy([one]), at });
    }
  }

  runtimeConfig(value: Value, at: Origin, above: readonly string[] = []): void {
    if (value.kind !== 'object') {
      if (above.length === 0) this.unknown('runtimeConfig');
      return;
    }
    eachOwn(value, at, (key, inner, place) => {
      const path = [...above, key];
      if (inner.kind === 'object') return this.runtimeConfig(inner, place, path);
      this.#runtimeKeys.add(path.join('.'));
      if (path[0] === 'public') this.#pass({ read: path.join('.'), carries: carriedBy([inner]), at: place });
    });
  }
}

/** The directory of a file; the file itself at the top. */
export function folderOfFile(file: string): string {
  const end = file.lastIndexOf('/');
  return end <= 0 ? file : file.slice(0, end);
}

/** Words for Node.js as the platform of a build: `node`, `node20.1`, `async-node`. */
export function isNodePlatform(text: string | undefined): boolean {
  return text !== undefined && /^(async-)?node[\d.]*$/.test(text);
}

function isUndefined(value: Value): boolean {
  return value.kind === 'known' && value.value === undefined;
}

/** Objects in objects are followed so deep. */
const DEEPEST = 20;

function eachOwn(
  { fields, places }: ObjectValue,
  at: Origin,
  tell: (key: string, value: Value, at: Origin) => void,
): void {
  for (const [key, value] of fields) tell(key, value, places.get(key) ?? at);
}

/** A string, or the strings of a list. */
function texts(value: Value): string[] {
  return optionsOf(value).flatMap((one) =>
    (one.kind === 'list' ? one.items : [one]).flatMap((item) => textOf(item) ?? []),
  );
}

/** Readers of the kinds of settings that tools have, under whatever keys. */
export const readPrefix: ReadSetting = (found, value) => found.prefix(value);
export const readRoot: ReadSetting = (found, value, parent) => parent === '' && found.root(value);
export const readEnvFolder: ReadSetting = (found, value) => found.envFolder(value);
export const readOutput: ReadSetting = (found, value) => found.output(value, 'the output directory');
export const readMode: ReadSetting = (found, value) => found.mode(value);
export const readEntry: ReadSetting = (found, value) => found.entries(value);
export const readPlatform: ReadSetting = (found, value) => found.platform(value);
/** A file that a build writes: its maps are beside it. */
export const readOutputFile: ReadSetting = (found, value) => found.outputFile(value);
export const readNames: ReadSetting = (found, value, _, at) => found.names(value, at);
export const readEnv: ReadSetting = (found, value, parent, at) => parent === '' && found.env(value, at);
export const readValues: ReadSetting = (found, value, _, at) => found.values(value, at);
export const readDefine: ReadSetting = (found, value, _, at) => found.define(value, at);
export const readReplaced: ReadSetting = (found, value, _, at) => found.replaced(value, at);
export const readRuntimeConfig: ReadSetting = (found, value, _, at) => found.runtimeConfig(value, at);
export const readShipped: ReadSetting = (found, value, _, at) => found.shipped(value, at);

/** A setting that code of the app has under a name. */
export function readShippedAs(name: string): ReadSetting {
  return (found, value, _, at) => found.shipped(value, at, [name]);
}

/** The fields of a whole configuration that ship with the app. */
export function readShippedKeys(keys: readonly string[]): ReadSetting {
  return (found, value, _, at) => {
    for (const one of optionsOf(value).map((each) => (each.kind === 'function' ? each.call([]) : each)))
      if (one.kind === 'object')
        for (const key of keys) {
          const field = one.fields.get(key);
          if (field) found.shipped(field, one.places.get(key) ?? at, [key]);
        }
  };
}
