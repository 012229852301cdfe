import { type Document, isAlias, isMap, isScalar, isSeq, LineCounter, type Node, type YAMLMap } from 'yaml';
import { isTooDeep } from '../../contract/yaml.js';
import { yamlDocument } from '../../text/yaml.js';

/** A name that a workflow or hosting file sets. */
export interface Setting {
  name: string;
  /** The text in the file, which may refer to a secret store. */
  value: string;
  line: number;
  column: number;
}

/** Values that a name may have when a step runs: those of a matrix, or of a parameter. */
export type Choices = ReadonlyMap<string, readonly string[]>;

/** A command line of a workflow, with every name that is set around it. */
export interface Step {
  command: string;
  line: number;
  column: number;
  settings: readonly Setting[];
  choices: Choices;
}

/** A call of another workflow of the repository. */
export interface WorkflowCall {
  /** From the top of the repository. */
  path: string;
  inputs: Choices;
  /** Secrets that it passes on; all if it says `inherit`. */
  secrets: 'all' | readonly string[];
}

/** A directory that a workflow stores, as a cache or artifact. */
export interface Stored {
  path: string;
  line: number;
  column: number;
}

/** Steps of a workflow or hosting file: settings, commands and stored paths. */
export interface Workflow {
  settings: Setting[];
  steps: Step[];
  caches: Stored[];
  calls: WorkflowCall[];
}

const settingKeys = /^(env|environment|variables|env_variables|env_vars|envVars|build_args|args)$/;
/** Groups of names within such a map. */
const settingGroups = /^(global|jobs|matrix|variables|parameter-store|secrets-manager)$/;
const commandKeys = /^(run|script|command|before_script|after_script|commands|bash|pwsh|powershell|sh)$/;

/**
 * Reads the common shape of workflow files, in YAML or JSON: maps of names under `env`, `environment` or `variables`, which
 * apply to everything next to and below them, and command lines under `run`, `script` or `command`. Also matrices, jobs that extend
 * others, anchors and merge keys, and calls of other workflows.
 */
export function readWorkflow(text: string): Workflow | undefined {
  if (isTooDeep(text)) return undefined;
  const lines = new LineCounter();
  const document = yamlDocument(text, { lineCounter: lines, uniqueKeys: false });
  if (document.errors.length > 0 || !document.contents) return undefined;
  return new WorkflowReader(document, lines).read();
}

/** Settings that apply to a part of a workflow. */
interface Around {
  settings: readonly Setting[];
  choices: Choices;
}

class WorkflowReader {
  readonly #found: Workflow = { settings: [], steps: [], caches: [], calls: [] };
  /** Nodes that are being read: an alias may lead to one of them. */
  readonly #open = new Set<Node>();

  constructor(
    readonly document: Document,
    readonly lines: LineCounter,
  ) {}

  read(): Workflow {
    const root = this.#real(this.document.contents as Node | null);
    this.#visit(root, { settings: [], choices: this.#parameters(root) }, true);
    return this.#found;
  }

  readonly #place: PlaceOf = (node) => {
    const { line, col } = this.lines.linePos(node?.range?.[0] ?? 0);
    return { line, column: col };
  };

  /** The node that an alias stands for. */
  readonly #real: Real = (node) =>
    isAlias(node) ? ((node.resolve(this.document) as Node | undefined) ?? null) : (node ?? null);

  #visit(given: Node | null, around: Around, isRoot = false): void {
    const node = this.#real(given);
    if (!node || this.#open.has(node)) return;
    this.#open.add(node);
    if (isSeq(node)) for (const item of node.items) this.#visit(item as Node, around);
    if (isMap(node)) this.#visitMap(node, around, isRoot);
    this.#open.delete(node);
  }

  #visitMap(node: YAMLMap, around: Around, isRoot: boolean): void {
    const own = this.#settingsOf(node);
    this.#found.settings.push(...own);
    this.#found.caches.push(...storedBy(node, this.#place));
    const bases = this.#basesOf(node);
    const inherited = bases.flatMap((base) => this.#settingsOf(base));
    const inScope: Around = {
      settings: [...around.settings, ...inherited, ...own],
      choices: joined(around.choices, matrixOf(node, this.#real)),
    };
    this.#call(node, inScope);
    const hasCommands = node.items.some(({ key }) => commandKeys.test(nameOf(key)));
    for (const base of hasCommands ? [] : bases) this.#commands(base, inScope);
    this.#commands(node, inScope);
    for (const { key, value } of node.items) {
      const name = nameOf(key);
      // A hidden job runs only in the jobs that extend it.
      if (settingKeys.test(name) || name === '<<' || (isRoot && /^\./.test(name))) continue;
      this.#visit(value as Node | null, inScope);
    }
  }

  #commands(node: YAMLMap, { settings, choices }: Around): void {
    for (const { key, value } of node.items)
      if (commandKeys.test(nameOf(key)))
        this.#found.steps.push(...commandsIn(value as Node | null, this.#place, this.#real, { settings, choices }));
  }

  #settingsOf(node: YAMLMap): Setting[] {
    return node.items.flatMap(({ key, value }) =>
      settingKeys.test(nameOf(key)) ? settingsIn(value as Node | null, this.#place, this.#real) : [],
    );
  }

  /** Settings that a job inherits: jobs named by `extends`, and maps merged with `<<`. */
  #basesOf(node: YAMLMap, depth = 0): YAMLMap[] {
    const named = textsIn(node.get('extends', true) as Node | undefined, this.#real).map((name) =>
      this.#real(this.document.getIn([name], true) as Node | undefined),
    );
    const merged = node.items
      .filter(({ key }) => nameOf(key) === '<<')
      .flatMap(({ value }) => {
        const one = this.#real(value as Node | null);
        return isSeq(one) ? one.items.map((item) => this.#real(item as Node)) : [one];
      });
    const bases = [...named, ...merged].filter((one): one is YAMLMap => isMap(one) && one !== node);
    return depth >= MOST_BASES ? [] : bases.flatMap((base) => [...this.#basesOf(base, depth + 1), base]);
  }

  /** `uses: ./.github/workflows/build.yml` of a job, with its inputs. */
  #call(node: YAMLMap, { choices }: Around): void {
    const uses = node.get('uses');
    const path = typeof uses === 'string' ? /^\.\/(\S+\.ya?ml)$/.exec(uses)?.[1] : undefined;
    if (path === undefined) return;
    const given = node.get('with', true);
    const inputs = (isMap(given) ? given.items : []).flatMap(({ key, value }) => {
      const text = isScalar(value) ? String(value.value) : '';
      return [[nameOf(key), expandedTexts(text, { settings: [], choices })] as const];
    });
    const secrets = node.get('secrets', true);
    const passed = isMap(secrets) ? secrets.items.map(({ key }) => nameOf(key)) : [];
    const isAll = isScalar(secrets) && secrets.value === 'inherit';
    this.#found.calls.push({ path, inputs: new Map(inputs), secrets: isAll ? 'all' : passed });
  }

  /** Values that a file lists for its parameters: an `enum`, or the matrix of a job that another part of the file defines. */
  #parameters(root: Node | null): Choices {
    const found = new Map<string, string[]>();
    const add = (name: string, values: readonly string[]) => found.set(name, [...(found.get(name) ?? []), ...values]);
    const visit = (given: Node | null, depth: number): void => {
      const node = this.#real(given);
      if (depth > MOST_DEPTH) return;
      if (isSeq(node)) for (const item of node.items) visit(item as Node, depth + 1);
      if (!isMap(node)) return;
      const parameters = this.#real(node.get('parameters', true) as Node | undefined);
      for (const { key, value } of isMap(parameters) ? parameters.items : []) {
        const one = this.#real(value as Node | null);
        add(
          nameOf(key),
          isMap(one)
            ? textsIn(one.get('enum', true) as Node | undefined, this.#real)
            : textsIn(one ?? undefined, this.#real),
        );
      }
      for (const { value } of node.items) visit(value as Node | null, depth + 1);
    };
    visit(root, 0);
    return found;
  }
}

/** Jobs that extend jobs that extend, and nesting of parameters. */
const [MOST_BASES, MOST_DEPTH] = [5, 12];

function nameOf(key: unknown): string {
  return isScalar(key) ? String(key.value) : '';
}

function joined(first: Choices, second: Choices): Choices {
  return second.size === 0 ? first : new Map([...first, ...second]);
}

/** The texts of a scalar or of a list of scalars. */
function textsIn(node: Node | undefined, real: Real): string[] {
  const one = real(node);
  if (isScalar(one)) return [String(one.value)];
  return isSeq(one) ? one.items.flatMap((item) => textsIn(item as Node, real)) : [];
}

/** `strategy: { matrix: ... }`, `parallel: { matrix: [...] }`, and `matrix: { parameters: ... }`: name to values. */
function matrixOf(node: YAMLMap, real: Real): Choices {
  const found = new Map<string, string[]>();
  const collect = (given: Node | null, name?: string): void => {
    const one = real(given);
    if (isSeq(one)) for (const item of one.items) collect(item as Node, name);
    if (isScalar(one) && name !== undefined) found.set(name, [...(found.get(name) ?? []), String(one.value)]);
    if (!isMap(one)) return;
    for (const { key, value } of one.items) {
      const own = nameOf(key);
      if (own !== 'exclude')
        collect(value as Node, /^(include|parameters|setup|adjustments|with)$/.test(own) ? undefined : own);
    }
  };
  for (const holder of ['strategy', 'parallel']) {
    const one = real(node.get(holder, true) as Node | undefined);
    if (isMap(one)) collect((one.get('matrix', true) as Node | undefined) ?? null);
  }
  collect((node.get('matrix', true) as Node | undefined) ?? null);
  return found;
}

/** A reference to a parameter, a matrix or a variable, in the notation of any pipeline. */
const reference =
  /\$\{\{\s*(?:matrix|inputs|env|vars|variables|parameters)\.(?:[\w-]+\.)*([\w-]+)\s*\}\}|<<\s*(?:pipeline\.)?(?:parameters|matrix)\.([\w-]+)\s*>>|\$\((\w+)\)|\$\{?(\w+)\}?/g;

/** Texts with references are not many times as long as the file. */
const MOST_TEXTS = 64;

/** The texts that a text with references may stand for. */
export function expandedTexts(text: string, { settings, choices }: Pick<Step, 'settings' | 'choices'>): string[] {
  let texts = [text];
  for (const match of text.matchAll(reference)) {
    const name = match.slice(1).find((one) => one !== undefined) ?? '';
    const set = settings.findLast((one) => one.name === name)?.value;
    // A setting may itself refer to a matrix.
    const values = choices.get(name) ?? (set === undefined ? [] : expandedOnce(set, choices));
    if (values.length === 0) continue;
    texts = texts.flatMap((one) => values.map((value) => one.replaceAll(match[0], value))).slice(0, MOST_TEXTS);
  }
  return [...new Set(texts)];
}

function expandedOnce(text: string, choices: Choices): string[] {
  const match = new RegExp(reference.source).exec(text);
  const name = match?.slice(1).find((one) => one !== undefined);
  if (!match || name === undefined) return [text];
  return (choices.get(name) ?? []).map((value) => text.replaceAll(match[0], value));
}

type Real = (node: Node | null | undefined) => Node | null;

type PlaceOf = (node: Node | null | undefined) => { line: number; column: number };

/** `NAME: value`, `- NAME=value`, `- name: NAME` with `value:` beside it, and GitLab's long form of a map with `value`. */
function settingsIn(given: Node | null, place: PlaceOf, real: Real): Setting[] {
  const node = real(given);
  if (isMap(node)) {
    return node.items.flatMap(({ key, value: written }) => {
      const value = real(written as Node | null);
      const isGroup = isSeq(value) || (isMap(value) && !value.has('value'));
      if (nameOf(key) === '<<' || (isGroup && settingGroups.test(nameOf(key)))) return settingsIn(value, place, real);
      if (!isScalar(key) || !/^[A-Za-z_]\w*$/.test(String(key.value))) return [];
      const inner = isMap(value) ? value.get('value') : isScalar(value) ? value.value : undefined;
      return [
        {
          name: String(key.value),
          value: inner === null || inner === undefined ? '' : String(inner),
          ...place(key as Node),
        },
      ];
    });
  }
  if (!isSeq(node)) return [];
  return node.items.flatMap((item) => {
    if (isMap(item)) {
      const name = item.get('name') ?? item.get('key') ?? item.get('variable');
      const value = item.get('value');
      return typeof name === 'string'
        ? [{ name, value: value === undefined ? '${}' : String(value), ...place(item as Node) }]
        : [];
    }
    const [, name, value = ''] = isScalar(item)
      ? (/^([A-Za-z_]\w*)(?:=([\s\S]*))?$/.exec(String(item.value)) ?? [])
      : [];
    return name === undefined ? [] : [{ name, value, ...place(item as Node) }];
  });
}

/**
 * `cache: { paths: [...] }` and `artifacts: { paths: [...] }`, and a step that uses a cache of the platform or uploads files and has its
 * paths under `with`.
 */
function storedBy(node: YAMLMap, place: PlaceOf): Stored[] {
  const uses = node.get('uses');
  const isStore = typeof uses === 'string' && /\b(cache|upload-artifact)\b/.test(uses);
  const given = isStore ? node.get('with', true) : undefined;
  const holders = [node.get('cache', true), node.get('artifacts', true), given].flatMap((one) =>
    isSeq(one) ? (one.items as unknown[]) : [one],
  );
  return holders.flatMap((holder) =>
    isMap(holder) ? ['path', 'paths'].flatMap((key) => pathsIn(holder.get(key, true) as Node | undefined, place)) : [],
  );
}

/** One path, one a line, or a list of them. */
function pathsIn(node: Node | undefined, place: PlaceOf): Stored[] {
  if (isSeq(node)) return node.items.flatMap((item) => pathsIn(item as Node, place));
  if (!isScalar(node) || typeof node.value !== 'string') return [];
  const paths = node.value.split('\n').map((line) => line.trim());
  return paths.filter(Boolean).map((path) => ({ path, ...place(node) }));
}

function commandsIn(given: Node | null, place: PlaceOf, real: Real, around: Around): Step[] {
  const node = real(given);
  if (isSeq(node)) return node.items.flatMap((item) => commandsIn(item as Node, place, real, around));
  // A map is read with what it sets itself.
  return isScalar(node) && typeof node.value === 'string' ? [{ command: node.value, ...place(node), ...around }] : [];
}
