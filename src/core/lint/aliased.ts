import { scriptLanguage } from '../files/languages.js';
import type { Read } from '../reads/read.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { unwrap, walk } from '../syntax/walk.js';
import { isObjectPath } from './destructured.js';
import type { Edit, SourceText } from './model.js';

/**
 * `const env = object` as an object of what is read through it: `const env = { NAME: object.NAME }`. Replacing the reads alone would
 * leave the alias, which throws where there is no such object. Undefined if the alias is used in any other way: exported, passed on,
 * or read by a name that the bundle does not have.
 * @param expression the code that reads a name, or undefined to refuse
 */
export function aliasAsObject(
  file: Pick<SourceText, 'path' | 'text' | 'reads'>,
  read: Read,
  expression: (name: string) => string | undefined,
): Edit | undefined {
  const language = scriptLanguage(file.path);
  const alias = nameAt(file.text, read);
  if (language === undefined || alias === '') return undefined;
  const sources = sourcesOf(alias, parseSyntax(file.text, language).program);
  const through = file.reads.filter((one) => one.kind === 'alias' && nameAt(file.text, one) === alias);
  const [source, ...others] = sources;
  if (!source || others.length > 0 || occurrences(file.text, alias) !== through.length + 1) return undefined;
  const names = [...new Set(through.map(({ name = '' }) => name))];
  const parts = names.map((name) => ({ name, right: expression(name) }));
  if (parts.some(({ right }) => right === undefined)) return undefined;
  const text = `{ ${parts.map(({ name, right }) => `${name}: ${right}`).join(', ')} }`;
  return { path: file.path, start: source.start, end: source.end, text };
}

/** `env` of `env.NAME`. */
function nameAt(text: string, { start, end }: Read): string {
  return /^[\w$]+/.exec(text.slice(start, end))?.[0] ?? '';
}

/** Initial values of variables that are not exported, as far as values can be read from them. */
function sourcesOf(name: string, program: Node): Node[] {
  const found: Node[] = [];
  walk(program, (node, ancestors) => {
    const isExported = ancestors.at(-2)?.type === 'ExportNamedDeclaration';
    if (node.type === 'VariableDeclarator' && (node.id as Node).name === name && node.init && !isExported) {
      const init = unwrap(node.init as Node);
      if (isObjectPath(init)) found.push(init);
    }
    return undefined;
  });
  return found;
}

function occurrences(text: string, name: string): number {
  return text.match(new RegExp(`(?<![\\w$.])${name.replaceAll('$', '\\$')}(?![\\w$])`, 'g'))?.length ?? 0;
}
