import { childKeys, type Node } from './parse.js';

/** Called for each node before its children; `false` leaves the children out. */
export type Visit = (node: Node, ancestors: readonly Node[]) => boolean | undefined;

/** Visits a tree in the order of the text. The list of ancestors, the nearest last, is one list that changes on the way. */
export function walk(root: Node, visit: Visit): void {
  const ancestors: Node[] = [];
  const keysOf = childKeys();
  // A list of its own and not the stack: a sum of 50,000 texts is as deep as it is long.
  const left: (Node | typeof LEAVE)[] = [root];
  for (let node = left.pop(); node !== undefined; node = left.pop()) {
    if (node === LEAVE) {
      ancestors.pop();
      continue;
    }
    if (visit(node, ancestors) === false) continue;
    ancestors.push(node);
    left.push(LEAVE);
    const first = left.length;
    for (const key of keysOf[node.type] ?? []) {
      const child = node[key];
      if (Array.isArray(child)) {
        for (const one of child) if (one) left.push(one as Node);
      } else if (child) left.push(child as Node);
    }
    reverse(left, first);
  }
}

/** Stands for the end of a node's children. */
const LEAVE = Symbol('leave');

function reverse(list: unknown[], from: number): void {
  for (let [low, high] = [from, list.length - 1]; low < high; low++, high--)
    [list[low], list[high]] = [list[high], list[low]];
}

const wrappers = new Set([
  'ParenthesizedExpression',
  'ChainExpression',
  'TSAsExpression',
  'TSSatisfiesExpression',
  'TSNonNullExpression',
  'TSTypeAssertion',
  'TSInstantiationExpression',
]);

/** Tells whether a node has the value of its content: brackets, type assertions, optional chains. */
export function isWrapper(node: Node): boolean {
  return wrappers.has(node.type);
}

/** The expression inside brackets and type assertions. */
export function unwrap(node: Node): Node {
  let inner = node;
  while (isWrapper(inner)) inner = inner.expression as Node;
  return inner;
}

/** The name that a member expression reads: an identifier, or the constant in brackets. */
export function propertyName({ property, computed }: Node): unknown {
  const { type, name, value } = property as Node;
  return computed ? value : type === 'Identifier' ? name : undefined;
}

/** Types say nothing about values; only what wraps expressions or holds statements is looked into. */
export function isTypeOnly(node: Node): boolean {
  if (!node.type.startsWith('TS')) return false;
  return !isWrapper(node) && !/^TS(Enum|Module|ExportAssignment|ParameterProperty|AbstractProperty)/.test(node.type);
}

/** The text of a string literal, or of a template without expressions. */
export function constantText(node: Node | undefined): string | undefined {
  if (node?.type === 'Literal' && typeof node.value === 'string') return node.value;
  if (node?.type !== 'TemplateLiteral' || (node.expressions as Node[]).length > 0) return undefined;
  const [part] = node.quasis as { value: { cooked: string | null } }[];
  return part?.value.cooked ?? undefined;
}

/** The name that an import specifier has in its module. */
export function nameOfImport({ imported }: Node): string {
  const node = imported as Node;
  return (node.name ?? node.value) as string;
}
