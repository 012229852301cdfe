import type { Node } from '../syntax/parse.js';
import { walk } from '../syntax/walk.js';
import type { Range } from '../text/ranges.js';

/** Functions whose arguments their compiler takes out of the code for browsers (Qwik, TanStack Start). */
const serverFunctions: ReadonlySet<string> = new Set([
  'routeLoader$',
  'routeAction$',
  'globalAction$',
  'server$',
  'createServerOnlyFn',
]);

/** Methods that do so, by what makes their object. */
const serverMethods: ReadonlyMap<string, readonly string[]> = new Map([
  ['createServerFn', ['handler']],
  ['createMiddleware', ['server']],
  ['createIsomorphicFn', ['server']],
]);

/** Functions that make routes; `server` in their options is taken out. */
const routeMakers: ReadonlySet<string> = new Set(['createFileRoute', 'createRootRoute', 'createRootRouteWithContext']);

/** Tells whether a text may have such parts; parsing takes longer. */
export const mayCallServer =
  /\b(?:routeLoader|routeAction|globalAction|server)\$|\bcreate(?:Server(?:Only)?Fn|Middleware|IsomorphicFn|FileRoute|RootRoute)|['"]use server['"]/;

/** The ranges of functions that a compiler leaves to the server: arguments of its calls, and those that begin with `"use server"`. */
export function calledOnServer(program: Node): Range[] {
  const found: Range[] = [];
  walk(program, (node) => {
    if (node.type === 'CallExpression') found.push(...inCall(node));
    else if (isServerFunction(node)) found.push(node.body as Node);
    return undefined;
  });
  return found;
}

function inCall(call: Node): Node[] {
  const callee = call.callee as Node;
  const all = call.arguments as Node[];
  if (callee.type === 'Identifier') return serverFunctions.has(callee.name as string) ? all : [];
  if (callee.type === 'MemberExpression') {
    const method = (callee.property as Node).name as string;
    return serverMethods.get(makerOf(callee.object as Node) ?? '')?.includes(method) ? all : [];
  }
  return routeMakers.has(makerOf(callee) ?? '') ? all.flatMap(serverOptions) : [];
}

/** The function at the beginning of a chain of calls: `f` of `f().a().b()`. */
function makerOf(start: Node): string | undefined {
  let node = start;
  while (node.type === 'CallExpression' || node.type === 'MemberExpression')
    node = (node.type === 'CallExpression' ? node.callee : node.object) as Node;
  return node.type === 'Identifier' ? (node.name as string) : undefined;
}

function serverOptions(options: Node): Node[] {
  if (options.type !== 'ObjectExpression') return [];
  return (options.properties as Node[]).filter(
    ({ type, key }) => type === 'Property' && ((key as Node).name as string) === 'server',
  );
}

function isServerFunction({ type, body }: Node): boolean {
  if (!/^(FunctionDeclaration|FunctionExpression|ArrowFunctionExpression)$/.test(type)) return false;
  const [first] = ((body as Node | null)?.body as Node[] | undefined) ?? [];
  return first?.type === 'ExpressionStatement' && (first.directive as string | undefined) === 'use server';
}
