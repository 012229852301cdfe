import type { ScriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf } from '../syntax/scopes.js';
import { isWrapper, propertyName, unwrap, walk } from '../syntax/walk.js';

/** A read of the process environment, with its place in UTF-16 code units. */
export interface ProcessRead {
  /** Absent for the whole object, and for a name that only the running code knows. */
  name?: string;
  start: number;
  end: number;
}

/**
 * Uses of `process.env` that throw where there is no process: the variable is global, the script does not define it, and nothing
 * around the read asks for it first. `NODE_ENV` is left out: a build that leaves it in is a development build.
 */
export function throwingReads(text: string, language: ScriptLanguage): ProcessRead[] {
  const { program, problem } = parseSyntax(text, language);
  if (problem || definesProcess(text)) return [];
  const found: ProcessRead[] = [];
  walk(program, (node, ancestors) => {
    const given = givenProcess(node);
    if ((!given && !isEnvironment(node)) || declarationOf('process', ancestors)) return undefined;
    if (isGuarded(node, ancestors)) return undefined;
    if (given) {
      found.push(given);
      return undefined;
    }
    const parent = ancestors.findLast((one) => !isWrapper(one));
    const isMember = parent?.type === 'MemberExpression' && unwrap(parent.object as Node) === node;
    const name = isMember ? propertyName(parent) : undefined;
    if (name === 'NODE_ENV') return undefined;
    const { start, end } = typeof name === 'string' ? (parent as Node) : node;
    found.push({ ...(typeof name === 'string' && { name }), start, end });
    return undefined;
  });
  return found;
}

/** Tells whether a script gives the page a process. */
function definesProcess(text: string): boolean {
  return /\b(?:globalThis|window|self|global)\s*\.\s*process\s*(?:\|\|=|\?\?=|=(?!=))/.test(text);
}

/** The `process` that gets another name, or is destructured. */
function givenProcess(node: Node): ProcessRead | undefined {
  const value =
    node.type === 'VariableDeclarator' ? node.init : node.type === 'AssignmentExpression' ? node.right : null;
  const inner = value ? unwrap(value as Node) : undefined;
  const isProcess = inner?.type === 'Identifier' && inner.name === 'process';
  return isProcess ? { start: inner.start, end: inner.end } : undefined;
}

function isEnvironment(node: Node): boolean {
  if (node.type !== 'MemberExpression' || propertyName(node) !== 'env') return false;
  const object = unwrap(node.object as Node);
  return object.type === 'Identifier' && object.name === 'process';
}

/** Tells whether an error is caught, or a condition before the read asks whether there is a process. */
function isGuarded(node: Node, ancestors: readonly Node[]): boolean {
  let inner = node;
  for (const outer of ancestors.toReversed()) {
    if (outer.type === 'TryStatement' && outer.block === inner && endsError(outer.handler as Node | null)) return true;
    const test = outer.type === 'LogicalExpression' ? (outer.left as Node) : (outer.test as Node | undefined);
    if (test && test !== inner && asksForProcess(test)) return true;
    if (Array.isArray(outer.body) && isLeftBefore(outer.body as Node[], inner)) return true;
    inner = outer;
  }
  return false;
}

/** False for a handler that only hands the error on, as bundlers write it around a module with a top-level `await`. */
function endsError(handler: Node | null): boolean {
  if (!handler) return false;
  const [only, ...others] = (handler.body as Node).body as Node[];
  const call = only?.type === 'ExpressionStatement' ? unwrap(only.expression as Node) : undefined;
  if (others.length > 0 || call?.type !== 'CallExpression' || (call.callee as Node).type !== 'Identifier') return true;
  const [argument, ...more] = call.arguments as Node[];
  return argument === undefined || more.length > 0 || argument.name !== (handler.param as Node | null)?.name;
}

/** Tells whether a statement before another one of a block leaves it where there is no process. */
function isLeftBefore(body: readonly Node[], statement: Node): boolean {
  const before = body.slice(0, body.indexOf(statement));
  return before.some((one) => one.type === 'IfStatement' && asksForProcess(one.test as Node));
}

function asksForProcess(test: Node): boolean {
  let asks = false;
  walk(test, (node) => {
    const operand = node.type === 'UnaryExpression' && node.operator === 'typeof' ? (node.argument as Node) : undefined;
    if (operand?.type === 'Identifier' && operand.name === 'process') asks = true;
    if (node.type === 'MemberExpression' && propertyName(node) === 'process') asks = true;
    return !asks;
  });
  return asks;
}
