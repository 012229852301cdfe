import { isMap, isScalar, isSeq, LineCounter, type Node, parseDocument, type YAMLMap } from 'yaml';
import { isTooDeep } from '../../contract/yaml.js';

/** A name that a workflow or hosting file sets. */
export interface Setting {
  name: string;
  /** As in the file: a reference to a secret store, or a text. */
  value: string;
  line: number;
  column: number;
}

/** A command line of a workflow, with every name that is set around it. */
export interface Step {
  command: string;
  line: number;
  column: number;
  settings: readonly Setting[];
}

/** A directory that a workflow stores, as a cache or artifact. */
export interface Stored {
  path: string;
  line: number;
  column: number;
}

/** What a workflow or hosting file sets, runs and stores. */
export interface Workflow {
  settings: Setting[];
  steps: Step[];
  caches: Stored[];
}

const settingKeys = /^(env|environment|variables|env_variables|envVars|build_args|args)$/;
const commandKeys = /^(run|script|command|before_script|after_script|commands|bash|pwsh|powershell|sh)$/;

/**
 * Reads the common shape of workflow files, in YAML or JSON: maps of names under `env`, `environment` or `variables`, which
 * apply to everything next to and below them, and command lines under `run`, `script` or `command`.
 */
export function readWorkflow(text: string): Workflow | undefined {
  if (isTooDeep(text)) return undefined;
  const lines = new LineCounter();
  const document = parseDocument(text, {
    lineCounter: lines,
    prettyErrors: false,
    uniqueKeys: false,
    logLevel: 'silent',
  });
  if (document.errors.length > 0 || !document.contents) return undefined;
  const found: Workflow = { settings: [], steps: [], caches: [] };
  const place = (node: Node | null | undefined) => {
    const { line, col } = lines.linePos(node?.range?.[0] ?? 0);
    return { line, column: col };
  };
  const visit = (node: Node | null, around: readonly Setting[]): void => {
    if (isSeq(node)) for (const item of node.items) visit(item as Node, around);
    if (!isMap(node)) return;
    const own = node.items.flatMap(({ key, value }) =>
      isScalar(key) && settingKeys.test(String(key.value)) ? settingsIn(value as Node | null, place) : [],
    );
    found.settings.push(...own);
    found.caches.push(...storedBy(node, place));
    const inScope = own.length > 0 ? [...around, ...own] : around;
    for (const { key, value } of node.items) {
      const name = isScalar(key) ? String(key.value) : '';
      if (commandKeys.test(name)) found.steps.push(...commandsIn(value as Node | null, place, inScope));
      if (!settingKeys.test(name)) visit(value as Node | null, inScope);
    }
  };
  visit(document.contents, []);
  return found;
}

type PlaceOf = (node: Node | null | undefined) => { line: number; column: number };

/** `NAME: value`, `- NAME=value`, `- name: NAME` with `value:` beside it, and GitLab's long form of a map with `value`. */
function settingsIn(node: Node | null, place: PlaceOf): Setting[] {
  if (isMap(node)) {
    return node.items.flatMap(({ key, value }) => {
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

function commandsIn(node: Node | null, place: PlaceOf, settings: readonly Setting[]): Step[] {
  if (isSeq(node)) return node.items.flatMap((item) => commandsIn(item as Node, place, settings));
  if (isMap(node)) return commandsIn((node.get('command', true) as Node | undefined) ?? null, place, settings);
  return isScalar(node) && typeof node.value === 'string' ? [{ command: node.value, ...place(node), settings }] : [];
}
