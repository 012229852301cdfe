import type { Read } from '../reads/read.js';
import type { Node } from '../syntax/parse.js';
import { unwrap } from '../syntax/walk.js';
import { oncePer } from '../text/once.js';
import { countAtMost } from '../text/sorted.js';
import { declaratorsOf } from './declarators.js';
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
  expression: Expression,
  ofAlias = false,
): Edit | undefined {
  const found = patternAround(file, read);
  if (!found?.init) return undefined;
  const init = unwrap(found.init as Node);
  if (!isObjectPath(init) && !(ofAlias && init.type === 'Identifier')) return undefined;
  // Each of the names asks for the same.
  const known = texts.get(found);
  const text = known?.expression === expression ? known.text : textOf(found, file.text, expression);
  texts.set(found, { expression, text });
  return text === undefined ? undefined : { path: file.path, start: found.start, end: found.end, text };
}

/** The code of a name, or undefined to refuse. */
type Expression = (name: string) => string | undefined;

const texts = new WeakMap<Node, { expression: Expression; text: string | undefined }>();

function textOf(declarator: Node, text: string, expression: Expression): string | undefined {
  const parts = ((declarator.id as Node).properties as Node[]).map((property) => partOf(property, text, expression));
  return parts.length === 0 || parts.includes(undefined) ? undefined : parts.join(', ');
}

/** Declarators with an object pattern, in source order, and the offsets of their patterns. */
const patternsOf = oncePer((file: Pick<SourceText, 'path' | 'text'>) => {
  const isPattern = ({ id }: Node) => (id as Node).type === 'ObjectPattern';
  const nodes = declaratorsOf(file).flatMap(({ node }) => (isPattern(node) ? [node] : []));
  return { nodes, starts: nodes.map(({ id }) => (id as Node).start) };
});

/** The declarator whose pattern holds a read. */
function patternAround(file: Pick<SourceText, 'path' | 'text'>, read: Read): Node | undefined {
  const { nodes, starts } = patternsOf(file);
  // A pattern in the default of another one begins later, and is the one around the read.
  for (let at = countAtMost(starts, read.start) - 1; at >= 0; at--) {
    const node = nodes[at] as Node;
    if (read.end <= (node.id as Node).end) return node;
    if (node.end < read.start) return undefined;
  }
  return undefined;
}

/** Tells whether values can be read from an expression: `process.env`, `import.meta.env`. */
export function isObjectPath({ type }: Node): boolean {
  return type === 'MemberExpression' || type === 'MetaProperty';
}

function partOf(property: Node, text: string, expression: Expression): string | undefined {
  if (property.type !== 'Property' || property.computed) return undefined;
  const key = property.key as Node;
  const target = property.value as Node;
  const right = expression(String(key.name ?? key.value));
  if (right === undefined) return undefined;
  if (target.type === 'Identifier') return `${target.name} = ${right}`;
  const [left, fallback] = target.type === 'AssignmentPattern' ? [target.left as Node, target.right as Node] : [];
  return left?.type === 'Identifier' && fallback ? `${left.name} = ${right} ?? ${operand(fallback, text)}` : undefined;
}

/** The code of an expression beside `??`, which no other logical operator and no function without brackets may be. */
function operand({ type, start, end }: Node, text: string): string {
  const code = text.slice(start, end);
  const isWhole = /^(Literal|TemplateLiteral|Identifier|MemberExpression|CallExpression|ArrayExpression)$/.test(type);
  return isWhole ? code : `(${code})`;
}
