import type { ScriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf } from '../syntax/scopes.js';
import { propertyName, unwrap, walk } from '../syntax/walk.js';

/** A read of the process environment, with its place in UTF-16 code units. */
export interface ProcessRead {
  name: string;
  start: number;
  end: number;
}

/**
 * Reads `process.env.NAME` that throw where there is no process: the variable is global, the script does not define it, and nothing
 * around the read asks for it first. `NODE_ENV` is left out: a build that leaves it in is a development build.
 */
export function throwingReads(text: string, language: ScriptLanguage): ProcessRead[] {
  const { program, problem } = parseSyntax(text, language);
  if (problem || definesProcess(text)) return [];
  const found: ProcessRead[] = [];
  walk(program, (node, ancestors) => {
    const name = nameRead(node);
    if (name === undefined || name === 'NODE_ENV' || declarationOf('process', ancestors)) return undefined;
    if (!isGuarded(node, ancestors)) found.push({ name, start: node.start, end: node.end });
    return undefined;
  });
  return found;
}

/** Tells whether a script gives the page a process. */
function definesProcess(text: string): boolean {
  return /\b(?:globalThis|window|self|global)\s*\.\s*process\s*(?:\|\|=|\?\?=|=(?!=))/.test(text);
}

/** The name that an expression reads from `process.env`. */
function nameRead(node: Node): string | undefined {
  if (node.type !== 'MemberExpression') return undefined;
  const env = unwrap(node.object as Node);
  if (env.type !== 'MemberExpression' || propertyName(env) !== 'env') return undefined;
  const object = unwrap(env.object as Node);
  const name = object.type === 'Identifier' && object.name === 'process' ? propertyName(node) : undefined;
  return typeof name === 'string' ? name : undefined;
}

/** Tells whether an error is caught, or a condition before the read asks whether there is a process. */
function isGuarded(node: Node, ancestors: readonly Node[]): boolean {
  let inner = node;
  for (const outer of ancestors.toReversed()) {
    if (outer.type === 'TryStatement' && outer.block === inner && outer.handler) return true;
    const test = outer.type === 'LogicalExpression' ? (outer.left as Node) : (outer.test as Node | undefined);
    if (test && test !== inner && asksForProcess(test)) return true;
    if (Array.isArray(outer.body) && isLeftBefore(outer.body as Node[], inner)) return true;
    inner = outer;
  }
  return false;
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
