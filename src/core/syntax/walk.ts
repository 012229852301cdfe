import { childKeys, type Node } from './parse.js';

/** Called for each node before its children; `false` leaves the children out. */
export type Visit = (node: Node, ancestors: readonly Node[]) => boolean | undefined;

/** Visits a tree in the order of the text. The list of ancestors, the nearest last, is one list that changes on the way. */
export function walk(root: Node, visit: Visit): void {
  const ancestors: Node[] = [];
  const keysOf = childKeys();
  const step = (node: Node): void => {
    if (visit(node, ancestors) === false) return;
    ancestors.push(node);
    for (const key of keysOf[node.type] ?? []) {
      const child = node[key];
      if (Array.isArray(child)) {
        for (const one of child) if (one) step(one as Node);
      } else if (child) step(child as Node);
    }
    ancestors.pop();
  };
  step(root);
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

/** Whether a node stands for what is in it, as far as values go: brackets, type assertions, optional chains. */
export function isWrapper(node: Node): boolean {
  return wrappers.has(node.type);
}

/** The expression inside brackets and type assertions. */
export function unwrap(node: Node): Node {
  let inner = node;
  while (isWrapper(inner)) inner = inner.expression as Node;
  return inner;
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
