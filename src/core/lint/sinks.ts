import { calleeName } from '../syntax/data-flow.js';
import type { Node } from '../syntax/parse.js';
import { isWrapper, unwrap } from '../syntax/walk.js';
import { toolchains } from '../toolchains/index.js';
import type { Destination } from '../words/code.js';

/** A place at which server code gives a value away. */
interface Sink {
  to: Destination;
  /** The type of the node. */
  type: string;
  /** The expressions of a node whose values leave; none if it is no such place. */
  values(node: Node, ancestors: readonly Node[]): readonly (Node | null)[];
  /** Tells whether browser code may do the same with a single value. */
  wholeOnly?: true;
}

const args = (node: Node) =>
  (node.arguments as Node[]).map((one) => (one.type === 'SpreadElement' ? one.argument : one) as Node);
const called = (node: Node) => calleeName(unwrap(node.callee as Node));

/** One line for each place. */
export const sinks: readonly Sink[] = [
  {
    to: 'log',
    type: 'CallExpression',
    values: (node) => (isLog(node) ? args(node) : []),
    wholeOnly: true,
  },
  { to: 'response', type: 'CallExpression', values: (node) => (isAnswer(node) ? args(node) : []) },
  {
    to: 'response',
    type: 'NewExpression',
    values: (node) => (calleeName(node.callee as Node) === 'Response' ? args(node) : []),
  },
  {
    to: 'result',
    type: 'ReturnStatement',
    values: (node, ancestors) => (answers(ancestors) ? [node.argument as Node | null] : []),
  },
  {
    to: 'result',
    type: 'ArrowFunctionExpression',
    values: (node, ancestors) => (node.expression && answers([...ancestors, node]) ? [node.body as Node] : []),
  },
  { to: 'props', type: 'JSXAttribute', values: (node) => [expressionOf(node.value as Node | null)] },
  { to: 'props', type: 'JSXSpreadAttribute', values: (node) => [expressionOf(node.argument as Node)] },
  {
    to: 'markup',
    type: 'JSXExpressionContainer',
    values: (node, ancestors) => (ancestors.at(-1)?.type === 'JSXElement' ? [node.expression as Node] : []),
  },
  { to: 'markup', type: 'TemplateLiteral', values: (node) => (hasTag(node) ? [node] : []) },
];

function isLog(node: Node): boolean {
  return /^console\.\w+$|(^|\.)(log|logger)\.\w+$/.test(called(node));
}

/** Calls that send their arguments to whoever asked. */
function isAnswer(node: Node): boolean {
  const name = called(node);
  if (isLog(node)) return false;
  if (/^(NextResponse|Response)\.json$|^json$/.test(name)) return true;
  const callee = unwrap(node.callee as Node);
  if (callee.type !== 'MemberExpression') return false;
  const method = (callee.property as Node).name as string;
  const isOfServer = /^(json|send|jsonp|render)$/.test(method) && !/^(axios|fetch|client|http|api)\b/i.test(name);
  const isStream = /^(end|write)$/.test(method) && /(^|\.)(res|response|reply|answer)\.\w+$|\)\.\w+$/.test(name);
  return isOfServer || isStream;
}

function expressionOf(value: Node | null): Node | null {
  const inner = value?.type === 'JSXExpressionContainer' ? (value.expression as Node) : value;
  return inner?.type === 'Literal' ? null : inner;
}

function hasTag(node: Node): boolean {
  return (node.quasis as { value: { raw: string } }[]).some(({ value }) => /<\/?[a-z][\w-]*[\s>]/i.test(value.raw));
}

/** Functions whose result goes to the browser: those of frameworks, and `handler`, as server-side platforms call theirs. */
const tools = Object.values(toolchains);
const handlers: ReadonlySet<string> = new Set(['handler', ...tools.flatMap((tool) => tool.handlers ?? [])]);
const wrappers: ReadonlySet<string> = new Set(tools.flatMap((tool) => tool.handlerWrappers ?? []));

/** Tells whether the nearest function around a place is one whose result goes to the browser. */
function answers(ancestors: readonly Node[]): boolean {
  const at = ancestors.findLastIndex(({ type }) => /Function/.test(type));
  const owner = ancestors[at];
  if (!owner) return false;
  const own = (owner.id as Node | null | undefined)?.name as string | undefined;
  const parent = ancestors.slice(0, at).findLast((one) => !isWrapper(one));
  const declared =
    parent?.type === 'VariableDeclarator'
      ? ((parent.id as Node).name as string)
      : parent?.type === 'Property'
        ? ((parent.key as Node).name as string)
        : undefined;
  const isWrapped = parent?.type === 'CallExpression' && wrappers.has(calleeName(parent.callee as Node));
  return isWrapped || handlers.has(own ?? declared ?? '');
}
