import type { ScriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { constantText, unwrap, walk } from '../syntax/walk.js';

/** What a build's configuration says, as far as it is constant. The configuration is parsed, never run. */
export interface BuildSettings {
  /** `envPrefix`: the prefixes of the names that the tool inlines. */
  prefixes?: readonly string[];
  /** The directory of sources and pages, `root`. */
  root?: string;
  /** The output directory, relative to the configuration. */
  output?: string;
  /** A word for the kind of output, such as `export`, `standalone`, `server` or `static`. */
  mode?: string;
  /** Entry files that it names. */
  entries: readonly string[];
  /** Packages that it imports, such as adapters. */
  imports: readonly string[];
  /** Names that it inlines one by one, without a prefix: `env`, `EnvironmentPlugin`, `process.env.X` in a define option. */
  inlined: readonly string[];
  /** Where define options have their values: what these read is inlined. Offsets are UTF-16 code units. */
  defines: readonly { start: number; end: number }[];
  /** Keys of `runtimeConfig`, as paths: `public.apiBase`. */
  runtimeKeys: readonly string[];
  /** Settings that are present, but not constant. */
  unknown: readonly string[];
}

/** Those of a package without a configuration that Adder can read. */
export const noSettings: BuildSettings = {
  entries: [],
  imports: [],
  inlined: [],
  defines: [],
  runtimeKeys: [],
  unknown: [],
};

/** Reads the settings of a configuration file in JavaScript or TypeScript. A file that cannot be parsed has none. */
export function buildSettings(path: string, text: string): BuildSettings {
  const language: ScriptLanguage = /\.[cm]?ts$/.test(path) ? 'ts' : 'js';
  const { program, module, problem } = parseSyntax(text, language);
  if (problem) return { ...noSettings, unknown: ['the file, which cannot be parsed'] };
  const reader = new SettingsReader(program);
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
    defines: all.flatMap(({ defines }) => defines),
    runtimeKeys: all.flatMap(({ runtimeKeys }) => runtimeKeys),
    unknown: all.flatMap(({ unknown }) => unknown),
  };
}

/** One setting by its key, with the object that it is in. */
type Handler = (value: Node, parent: string) => void;

class SettingsReader {
  readonly required: string[] = [];
  readonly #constants = new Map<string, Node>();
  #prefixes: string[] | undefined;
  #root: string | undefined;
  #output: string | undefined;
  #mode: string | undefined;
  readonly #entries: string[] = [];
  readonly #inlined: string[] = [];
  readonly #defines: { start: number; end: number }[] = [];
  readonly #runtimeKeys: string[] = [];
  readonly #unknown: string[] = [];

  constructor(readonly program: Node) {
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
      defines: this.#defines,
      runtimeKeys: this.#runtimeKeys,
      unknown: [...new Set(this.#unknown)],
    };
  }

  #visit(node: Node, ancestors: readonly Node[]): void {
    if (node.type === 'Property') {
      const key = keyOf(node);
      if (key !== undefined) handlers(this)[key]?.(this.#resolved(node.value as Node), parentKey(ancestors));
      return;
    }
    if (node.type !== 'NewExpression' && node.type !== 'CallExpression') return;
    const callee = nameOfCallee(node.callee as Node);
    const [first] = node.arguments as Node[];
    if (callee === 'require' && first) this.required.push(...strings(first));
    if (!first) return;
    const argument = this.#resolved(first);
    if (callee === 'EnvironmentPlugin') this.#inlined.push(...strings(argument), ...keysOf(argument));
    if (callee === 'DefinePlugin') this.define(argument);
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
    if (value.type === 'ObjectExpression') this.#inlined.push(...keysOf(value));
  }

  define(value: Node): void {
    if (value.type !== 'ObjectExpression') {
      this.#unknown.push('define');
      return;
    }
    if (propertiesOf(value).length < (value.properties as Node[]).length) this.#unknown.push('define');
    for (const one of propertiesOf(value)) {
      const name = /^(?:process\.env|import\.meta\.env)\.(\w+)$/.exec(keyOf(one) ?? '')?.[1];
      if (name !== undefined) this.#inlined.push(name);
      const inner = one.value as Node;
      if (keyOf(one) === 'process.env') this.#wholeEnvironment(this.#resolved(inner));
      this.#defines.push({ start: inner.start, end: inner.end });
      this.#inlined.push(...this.#loadedIn(inner));
    }
  }

  /** Names that an expression takes from env files which the configuration loads: `loadEnv(mode, dir, '').NAME`. */
  #loadedIn(expression: Node): string[] {
    const names: string[] = [];
    walk(expression, (node) => {
      if (node.type !== 'MemberExpression' || node.computed) return undefined;
      const object = this.#resolved(node.object as Node);
      if (object.type === 'CallExpression' && nameOfCallee(object.callee as Node) === 'loadEnv')
        names.push((node.property as Node).name as string);
      return undefined;
    });
    return names;
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

/** One line per setting. */
function handlers(reader: SettingsReader): Readonly<Record<string, Handler>> {
  const output: Handler = (value) => reader.output(value, 'the output directory');
  return {
    __proto__: null as never,
    envPrefix: (value) => reader.prefix(value),
    root: (value, parent) => {
      if (parent === '') reader.root(value);
      else if (parent === 'distPath') output(value, parent);
    },
    distPath: (value, parent) => value.type !== 'ObjectExpression' && output(value, parent),
    outDir: output,
    outdir: output,
    distDir: output,
    path: (value, parent) => parent === 'output' && reader.output(value, 'the output directory'),
    output: (value) => reader.mode(value),
    entry: (value, parent) => parent !== 'lib' && reader.entry(value),
    entryPoints: (value) => reader.entry(value),
    input: (value) => reader.entry(value),
    env: (value, parent) => parent === '' && reader.env(value),
    define: (value) => reader.define(value),
    runtimeConfig: (value) => reader.runtimeConfig(value),
  };
}

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
