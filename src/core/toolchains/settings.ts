import type { ScriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { constantText, unwrap, walk } from '../syntax/walk.js';
import { table } from '../text/table.js';

/** Constant parts of a build's configuration. The configuration is parsed, never run. */
export interface BuildSettings {
  /** `envPrefix`: the prefixes of the names that the tool inlines. */
  prefixes?: readonly string[];
  /** The directory of sources and pages, `root`. */
  root?: string;
  /** The output directory, or several, relative to the configuration. */
  output?: string | readonly string[];
  /** A word for the kind of output, such as `export`, `standalone`, `server` or `static`. */
  mode?: string;
  /** Entry files that it names. */
  entries: readonly string[];
  /** Packages that it imports, such as adapters. */
  imports: readonly string[];
  /** Names that it inlines one by one, without a prefix: `env`, `EnvironmentPlugin`, `process.env.X` in a define option. */
  inlined: readonly string[];
  /** Reads that define options replace: `process.env.NAME`, `import.meta.env.NAME`. */
  defined: readonly string[];
  /** Names of the code to the name of the environment that each has the value of, where these differ: `env: { apiUrl: process.env.API_URL }`. */
  renamed: Readonly<Record<string, string>>;
  /** Where define options have their values: what these read is inlined. Offsets are UTF-16 code units. */
  defines: readonly { start: number; end: number }[];
  /** Keys of `runtimeConfig`, as paths: `public.apiBase`. */
  runtimeKeys: readonly string[];
  /** Settings that are present, but not constant. */
  unknown: readonly string[];
}

/** Settings of a package without a configuration that Adder can read. */
export const noSettings: BuildSettings = {
  entries: [],
  imports: [],
  inlined: [],
  defined: [],
  renamed: {},
  defines: [],
  runtimeKeys: [],
  unknown: [],
};

/** Reads one setting of a configuration. `parent` is the key of the object around it; empty at the top. */
export type ReadSetting = (found: SettingsReader, value: Node, parent: string) => void;

/** Configuration file names of a tool. Each tool's file has its own. */
export interface ConfigKeys {
  /** Keys of objects, at any depth. */
  keys: Readonly<Record<string, ReadSetting>>;
  /** Calls and constructors, such as `new DefinePlugin(...)`, by name; the first argument is read. */
  calls?: Readonly<Record<string, ReadSetting>>;
  /** Functions that load env files in a configuration. */
  loaders?: readonly string[];
}

/** The keys of several tools that have a configuration file in common. */
export function joinedKeys(all: readonly ConfigKeys[]): ConfigKeys {
  return {
    keys: table(Object.assign({}, ...all.map(({ keys }) => keys))),
    calls: table(Object.assign({}, ...all.map(({ calls }) => calls))),
    loaders: all.flatMap(({ loaders = [] }) => loaders),
  };
}

/** Reads the settings of a configuration file in JavaScript or TypeScript. A file that cannot be parsed has none. */
export function settingsOf(path: string, text: string, keys: ConfigKeys): BuildSettings {
  const language: ScriptLanguage = /\.[cm]?ts$/.test(path) ? 'ts' : 'js';
  const { program, module, problem } = parseSyntax(text, language);
  if (problem) return { ...noSettings, unknown: ['the file, which cannot be parsed'] };
  const reader = new SettingsReader(program, keys);
  const required = reader.required;
  return {
    ...reader.settings(),
    imports: [...new Set([...module.staticImports.map(({ moduleRequest }) => moduleRequest.value), ...required])],
  };
}

/** The settings of several configuration files of one build: of each setting the first one, of lists all. */
export function mergedSettings(all: readonly BuildSettings[]): BuildSettings {
  const first = Object.assign({}, ...all.toReversed()) as Partial<BuildSettings>;
  return {
    ...first,
    entries: all.flatMap(({ entries }) => entries),
    imports: all.flatMap(({ imports }) => imports),
    inlined: all.flatMap(({ inlined }) => inlined),
    defined: all.flatMap(({ defined }) => defined),
    renamed: table(Object.assign({}, ...all.map(({ renamed }) => renamed))),
    defines: all.flatMap(({ defines }) => defines),
    runtimeKeys: all.flatMap(({ runtimeKeys }) => runtimeKeys),
    unknown: all.flatMap(({ unknown }) => unknown),
  };
}

/** The settings of one configuration file as they are read. */
export class SettingsReader {
  readonly required: string[] = [];
  readonly #constants = new Map<string, Node>();
  #prefixes: string[] | undefined;
  #root: string | undefined;
  #output: string | readonly string[] | undefined;
  #mode: string | undefined;
  readonly #entries: string[] = [];
  readonly #inlined: string[] = [];
  readonly #defined: string[] = [];
  readonly #renamed: [name: string, read: string][] = [];
  readonly #defines: { start: number; end: number }[] = [];
  readonly #runtimeKeys: string[] = [];
  readonly #unknown: string[] = [];

  constructor(
    readonly program: Node,
    readonly config: ConfigKeys,
  ) {
    walk(program, (node) => {
      if (node.type === 'VariableDeclarator' && node.init && (node.id as Node).type === 'Identifier')
        this.#constants.set((node.id as Node).name as string, node.init as Node);
      return undefined;
    });
    walk(program, (node, ancestors) => {
      this.#visit(node, ancestors);
      return undefined;
    });
  }

  settings(): Omit<BuildSettings, 'imports'> {
    return {
      ...(this.#prefixes && { prefixes: this.#prefixes }),
      ...(this.#root !== undefined && { root: this.#root }),
      ...(this.#output !== undefined && { output: this.#output }),
      ...(this.#mode !== undefined && { mode: this.#mode }),
      entries: this.#entries,
      inlined: this.#inlined,
      defined: this.#defined,
      renamed: table(Object.fromEntries(this.#renamed)),
      defines: this.#defines,
      runtimeKeys: this.#runtimeKeys,
      unknown: [...new Set(this.#unknown)],
    };
  }

  #visit(node: Node, ancestors: readonly Node[]): void {
    if (node.type === 'Property') {
      const key = keyOf(node);
      const read = key !== undefined && Object.hasOwn(this.config.keys, key) ? this.config.keys[key] : undefined;
      read?.(this, this.#resolved(node.value as Node), parentKey(ancestors));
      return;
    }
    if (node.type !== 'NewExpression' && node.type !== 'CallExpression') return;
    const callee = nameOfCallee(node.callee as Node);
    const [first] = node.arguments as Node[];
    if (callee === 'require' && first) this.required.push(...strings(first));
    const { calls = {} } = this.config;
    if (first && Object.hasOwn(calls, callee)) calls[callee]?.(this, this.#resolved(first), '');
  }

  /** A list of names, or an object with a key for each. */
  names(value: Node): void {
    this.#inlined.push(...strings(value), ...keysOf(value));
  }

  /** A name's constant value in the same file. */
  #resolved(wrapped: Node): Node {
    let node = unwrap(wrapped);
    for (let steps = 0; steps < 8 && node.type === 'Identifier'; steps++) {
      const value = this.#constants.get(node.name as string);
      if (!value) break;
      node = unwrap(value);
    }
    return node;
  }

  prefix(value: Node): void {
    const found = strings(value);
    if (found.length > 0) this.#prefixes = found;
    else this.#unknown.push('envPrefix');
  }

  root(value: Node): void {
    const found = pathText(value);
    if (found === undefined) this.#unknown.push('root');
    else this.#root ??= found;
  }

  output(value: Node, setting: string): void {
    const found = pathText(value);
    if (found === undefined) this.#unknown.push(setting);
    else this.#output ??= found;
  }

  /** A list of kinds of output, each with a `type` and maybe a `dir`. @param usual the directory of each kind */
  outputs(value: Node, usual: Readonly<Record<string, string>>): void {
    const targets = value.type === 'ArrayExpression' ? (value.elements as (Node | null)[]) : [];
    const found = targets.flatMap((one) => {
      const target = one && this.#resolved(one);
      const fields = target?.type === 'ObjectExpression' ? propertiesOf(target) : [];
      const text = (key: string) =>
        fields.flatMap((field) => (keyOf(field) === key ? (pathText(field.value as Node) ?? []) : []))[0];
      return text('dir') ?? usual[text('type') ?? ''] ?? [];
    });
    if (found.length > 0) this.#output ??= [...new Set(found)];
  }

  /** `output: 'export'` is a kind of output; `output: { path }` and `output: 'dir'` are read elsewhere. */
  mode(value: Node): void {
    const text = constantText(value);
    if (text !== undefined && /^(export|standalone|server|static|hybrid)$/.test(text)) this.#mode ??= text;
  }

  entry(value: Node): void {
    if (value.type === 'ObjectExpression')
      for (const one of propertiesOf(value)) this.entry(this.#resolved(one.value as Node));
    else if (value.type === 'ArrayExpression')
      for (const one of value.elements as (Node | null)[]) if (one) this.entry(this.#resolved(one));
    const found = pathText(value);
    if (found !== undefined && /^\.{0,2}\/?[\w@.][\w@./-]*$/.test(found))
      this.#entries.push(found.replace(/^\.?\//, ''));
  }

  env(value: Node): void {
    if (value.type !== 'ObjectExpression' || propertiesOf(value).length < (value.properties as Node[]).length)
      this.#unknown.push('env');
    this.values(value);
  }

  define(value: Node): void {
    if (value.type !== 'ObjectExpression') {
      this.#unknown.push('define');
      return;
    }
    if (propertiesOf(value).length < (value.properties as Node[]).length) this.#unknown.push('define');
    for (const one of propertiesOf(value)) {
      const [read, name] = /^(?:process\.env|import\.meta\.env)\.(\w+)$/.exec(keyOf(one) ?? '') ?? [];
      const inner = one.value as Node;
      if (read !== undefined && name !== undefined) {
        this.#inlined.push(name);
        this.#defined.push(read);
        this.#rename(name, inner);
      }
      if (keyOf(one) === 'process.env') this.#wholeEnvironment(this.#resolved(inner));
      this.#defines.push({ start: inner.start, end: inner.end });
      this.#inlined.push(...this.#loadedIn(inner));
    }
  }

  /** An object whose values are put into the app: what they read is inlined. */
  values(value: Node): void {
    if (value.type !== 'ObjectExpression') return;
    this.#inlined.push(...keysOf(value));
    for (const one of propertiesOf(value)) {
      const inner = one.value as Node;
      this.#defines.push({ start: inner.start, end: inner.end });
      this.#rename(keyOf(one), inner);
    }
  }

  /** Notes that a name of the code has the value of another name of the environment. */
  #rename(name: string | undefined, value: Node): void {
    const read = readAlone(this.#resolved(value));
    if (name !== undefined && read !== undefined && read !== name) this.#renamed.push([name, read]);
  }

  /** Names that an expression takes from env files which the configuration loads: `loadEnv(mode, dir, '').NAME`. */
  #loadedIn(expression: Node): string[] {
    const names: string[] = [];
    walk(expression, (node) => {
      if (node.type !== 'MemberExpression' || node.computed) return undefined;
      const object = this.#resolved(node.object as Node);
      if (object.type === 'CallExpression' && this.config.loaders?.includes(nameOfCallee(object.callee as Node)))
        names.push((node.property as Node).name as string);
      return undefined;
    });
    return names;
  }

  /** Options of a plugin that replaces texts: the texts are its keys, or those of `values`. */
  replaced(value: Node): void {
    const inner = value.type === 'ObjectExpression' && propertiesOf(value).find((one) => keyOf(one) === 'values');
    this.define(inner ? this.#resolved(inner.value as Node) : value);
  }

  /** `'process.env': { NAME: ... }` inlines its names; anything else may inline every name. */
  #wholeEnvironment(value: Node): void {
    const isList =
      value.type === 'ObjectExpression' && propertiesOf(value).length === (value.properties as Node[]).length;
    if (isList) this.#inlined.push(...keysOf(value));
    else this.#unknown.push('define');
  }

  runtimeConfig(value: Node, above: readonly string[] = []): void {
    if (value.type !== 'ObjectExpression') {
      if (above.length === 0) this.#unknown.push('runtimeConfig');
      return;
    }
    for (const one of propertiesOf(value)) {
      const key = keyOf(one);
      if (key === undefined) continue;
      const inner = this.#resolved(one.value as Node);
      if (inner.type === 'ObjectExpression') this.runtimeConfig(inner, [...above, key]);
      else this.#runtimeKeys.push([...above, key].join('.'));
    }
  }
}

/** Readers of the kinds of settings that tools have, under whatever keys. */
export const readPrefix: ReadSetting = (found, value) => found.prefix(value);
export const readRoot: ReadSetting = (found, value, parent) => parent === '' && found.root(value);
export const readOutput: ReadSetting = (found, value) => found.output(value, 'the output directory');
export const readMode: ReadSetting = (found, value) => found.mode(value);
export const readEntry: ReadSetting = (found, value) => found.entry(value);
export const readNames: ReadSetting = (found, value) => found.names(value);
export const readEnv: ReadSetting = (found, value, parent) => parent === '' && found.env(value);
export const readValues: ReadSetting = (found, value) => found.values(value);
export const readDefine: ReadSetting = (found, value) => found.define(value);
export const readReplaced: ReadSetting = (found, value) => found.replaced(value);
export const readRuntimeConfig: ReadSetting = (found, value) => found.runtimeConfig(value);

function keyOf({ key, computed }: Node): string | undefined {
  const node = key as Node;
  if (node.type === 'Identifier' && !computed) return node.name as string;
  return constantText(node);
}

function propertiesOf(object: Node): Node[] {
  return (object.properties as Node[]).filter(({ type }) => type === 'Property');
}

function keysOf(node: Node): string[] {
  return node.type === 'ObjectExpression' ? propertiesOf(node).flatMap((one) => keyOf(one) ?? []) : [];
}

/** The key of the object around a property; empty at the top. */
function parentKey(ancestors: readonly Node[]): string {
  const above = ancestors.at(-2);
  return above?.type === 'Property' ? (keyOf(above) ?? '') : '';
}

/** `DefinePlugin` of `new webpack.DefinePlugin()`. */
function nameOfCallee(callee: Node): string {
  const node = unwrap(callee);
  if (node.type === 'Identifier') return node.name as string;
  return node.type === 'MemberExpression' ? ((node.property as Node).name as string) : '';
}

/** A string, or the strings of a list. */
function strings(node: Node): string[] {
  const text = constantText(node);
  if (text !== undefined) return [text];
  if (node.type !== 'ArrayExpression') return [];
  return (node.elements as (Node | null)[]).flatMap((one) => (one && constantText(unwrap(one))) ?? []);
}

/** A path below the configuration's directory: `'out'`, `resolve(__dirname, 'out')`, `__dirname + '/out'`, a URL. */
function pathText(node: Node): string | undefined {
  const plain = constantText(node);
  if (plain !== undefined) return plain;
  if (node.type === 'CallExpression' && /^(resolve|join|fileURLToPath)$/.test(nameOfCallee(node.callee as Node)))
    return joinedArguments(node.arguments as Node[]);
  if (node.type === 'NewExpression' && nameOfCallee(node.callee as Node) === 'URL')
    return constantText((node.arguments as Node[])[0]);
  if (node.type === 'BinaryExpression' && isHere(node.left as Node))
    return constantText(unwrap(node.right as Node))?.replace(/^\//, '');
  if (node.type !== 'TemplateLiteral') return undefined;
  const [first, ...others] = node.expressions as Node[];
  const texts = node.quasis as { value: { cooked: string | null } }[];
  if (!first || others.length > 0 || !isHere(first) || texts[0]?.value.cooked !== '') return undefined;
  return texts[1]?.value.cooked?.replace(/^\//, '');
}

function joinedArguments(all: readonly Node[]): string | undefined {
  const texts = all.filter((one) => !isHere(one)).map((one) => pathText(unwrap(one)));
  return texts.every((one) => one !== undefined) ? texts.join('/') || '.' : undefined;
}

/** The directory of the configuration: `__dirname`, `import.meta.dirname`, `import.meta.url`, `process.cwd()`. */
function isHere(wrapped: Node): boolean {
  const node = unwrap(wrapped);
  if (node.type === 'Identifier') return /^(__?dirname|here|root)$/.test(node.name as string);
  if (node.type === 'MemberExpression')
    return (
      (node.object as Node).type === 'MetaProperty' && /^(dirname|url)$/.test((node.property as Node).name as string)
    );
  return node.type === 'CallExpression' && nameOfCallee(node.callee as Node) === 'cwd';
}

/** The name that an expression reads from the environment if that is all it does: `process.env.NAME ?? 'x'`, as JSON or not. */
function readAlone(value: Node): string | undefined {
  const node = unwrap(value);
  if (node.type === 'LogicalExpression') return readAlone(node.left as Node);
  const [first] = node.type === 'CallExpression' ? (node.arguments as Node[]) : [];
  if (first && /^(stringify|String)$/.test(nameOfCallee(node.callee as Node))) return readAlone(first);
  if (node.type !== 'MemberExpression') return undefined;
  const object = unwrap(node.object as Node);
  const isEnvironment =
    object.type === 'MemberExpression' &&
    (object.object as Node).name === 'process' &&
    (object.property as Node).name === 'env';
  if (!isEnvironment) return undefined;
  return node.computed ? constantText(node.property as Node) : ((node.property as Node).name as string);
}
