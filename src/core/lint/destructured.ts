import { scriptLanguage } from '../files/languages.js';
import type { Read } from '../reads/read.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { unwrap, walk } from '../syntax/walk.js';
import type { Edit, SourceText } from './model.js';

/**
 * `const { NAME, B: b = x } = object` as literal reads: `NAME = object.NAME, b = object.B ?? x`. Undefined if the pattern has more
 * than plain names, or a name that the bundle does not have.
 * @param expression the code that reads a name, or undefined to refuse
 * @param ofAlias whether the object may be an alias, whose own declaration stays
 */
export function literalReads(
  file: Pick<SourceText, 'path' | 'text'>,
  read: Read,
  expression: (name: string) => string | undefined,
  ofAlias = false,
): Edit | undefined {
  const kind = scriptLanguage(file.path);
  if (kind === undefined) return undefined;
  const { program } = parseSyntax(file.text, kind);
  let found: Node | undefined;
  walk(program, (node) => {
    const id = node.type === 'VariableDeclarator' ? (node.id as Node) : undefined;
    if (id?.type === 'ObjectPattern' && id.start <= read.start && read.end <= id.end) found = node;
    return found === undefined ? undefined : false;
  });
  if (!found?.init) return undefined;
  const init = unwrap(found.init as Node);
  if (!isObjectPath(init) && !(ofAlias && init.type === 'Identifier')) return undefined;
  const parts = ((found.id as Node).properties as Node[]).map((property) => partOf(property, file.text, expression));
  if (parts.length === 0 || parts.includes(undefined)) return undefined;
  return { path: file.path, start: found.start, end: found.end, text: parts.join(', ') };
}

/** Tells whether values can be read from an expression: `process.env`, `import.meta.env`. */
export function isObjectPath({ type }: Node): boolean {
  return type === 'MemberExpression' || type === 'MetaProperty';
}

function partOf(property: Node, text: string, expression: (name: string) => string | undefined): string | undefined {
  if (property.type !== 'Property' || property.computed) return undefined;
  const key = property.key as Node;
  const target = property.value as Node;
  const right = expression(String(key.name ?? key.value));
  if (right === undefined) return undefined;
  if (target.type === 'Identifier') return `${target.name} = ${right}`;
  const [left, fallback] = target.type === 'AssignmentPattern' ? [target.left as Node, target.right as Node] : [];
  return left?.type === 'Identifier' && fallback
    ? `${left.name} = ${right} ?? ${text.slice(fallback.start, fallback.end)}`
    : undefined;
}
