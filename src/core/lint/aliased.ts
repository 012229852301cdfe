import type { Read } from '../reads/read.js';
import type { Node } from '../syntax/parse.js';
import { unwrap } from '../syntax/walk.js';
import { mentions } from '../text/mentions.js';
import { oncePer } from '../text/once.js';
import { declaratorsOf } from './declarators.js';
import { isObjectPath } from './destructured.js';
import type { Edit, SourceText } from './model.js';

/**
 * `const env = object` as an object of what is read through it: `const env = { NAME: object.NAME }`. Replacing the reads alone would
 * leave the alias, which throws where there is no such object. Undefined if the alias is used in any other way: exported, passed on,
 * or read by a name that the bundle does not have.
 * @param expression the code that reads a name, or undefined to refuse
 */
export function aliasAsObject(
  file: Script,
  read: Read,
  expression: (name: string) => string | undefined,
): Edit | undefined {
  const use = aliasesOf(file).get(nameAt(file.text, read));
  if (!use || !isOfAlias(file.text, read)) return undefined;
  const { source, names } = use;
  const parts = names.map((name) => ({ name, right: expression(name) }));
  if (parts.some(({ right }) => right === undefined)) return undefined;
  const text = `{ ${parts.map(({ name, right }) => `${name}: ${right}`).join(', ')} }`;
  return { path: file.path, start: source.start, end: source.end, text };
}

/** False for `host.env.NAME`, whose alias is that of an object around the one with the values. */
function isOfAlias(text: string, { start, nameStart }: Read): boolean {
  return /^[\w$]+\s*[)!]*\s*(\?\.|\.)?\s*\[?\s*$/.test(text.slice(start, nameStart));
}

/** `env` of `env.NAME`. */
function nameAt(text: string, { start, end }: Read): string {
  return /^[\w$]+/.exec(text.slice(start, end))?.[0] ?? '';
}

/** An alias that is only read from: the object that it stands for, and the names that are read. */
interface Alias {
  source: Node;
  names: readonly string[];
}

type Script = Pick<SourceText, 'path' | 'text' | 'reads'>;

/** Aliases of a script by name, found once for all reads through them. */
const aliasesOf = oncePer((file: Script): ReadonlyMap<string, Alias> => new Map(findAliases(file)));

function* findAliases(file: Script): Iterable<[string, Alias]> {
  const throughs = new Map<string, string[]>();
  for (const one of file.reads.filter(({ kind }) => kind === 'alias')) {
    const alias = nameAt(file.text, one);
    const names = throughs.get(alias) ?? [];
    names.push(one.name ?? '');
    throughs.set(alias, names);
  }
  const sources = sourcesIn(file);
  for (const [alias, names] of throughs) {
    const [source, ...others] = sources.get(alias) ?? [];
    const isOnlyRead = source && others.length === 0 && mentions(file.text, alias, false) === names.length + 1;
    if (alias !== '' && isOnlyRead) yield [alias, { source, names: [...new Set(names)] }];
  }
}

/** Initial values of variables that are not exported, as far as values can be read from them, by name. */
function sourcesIn(file: Script): Map<string, Node[]> {
  const found = new Map<string, Node[]>();
  for (const { node, isExported } of declaratorsOf(file)) {
    const init = node.init ? unwrap(node.init as Node) : undefined;
    if (!init || isExported || !isObjectPath(init)) continue;
    const name = String((node.id as Node).name);
    found.set(name, [...(found.get(name) ?? []), init]);
  }
  return found;
}
