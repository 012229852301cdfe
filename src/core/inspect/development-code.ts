import type { ScriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf } from '../syntax/scopes.js';
import { propertyName, unwrap, walk } from '../syntax/walk.js';

/** Checks of NODE_ENV that a build left in a script, and what they keep in it. */
export interface LeftChecks {
  /** The first one, in UTF-16 code units. */
  first: { start: number; end: number };
  checks: number;
  /** Bytes that would be gone if NODE_ENV were `production`: branches, and the declarations that only they use. A lower bound. */
  removable: number;
}

/**
 * The reads of `process.env.NODE_ENV` in the code of a script; texts and comments do not count.
 * @returns undefined if there are none, or the script cannot be parsed
 */
export function checksOfNodeEnv(text: string, language: ScriptLanguage): LeftChecks | undefined {
  const { program, problem } = parseSyntax(text, language);
  if (problem) return undefined;
  const branches = new Branches(program);
  const [first] = branches.checks;
  if (!first) return undefined;
  return { first, checks: branches.checks.length, removable: bytesOf(text, branches.removed()) };
}

/** Ranges that overlap count once. */
function bytesOf(text: string, ranges: readonly Node[]): number {
  let [bytes, covered] = [0, 0];
  for (const { start, end } of [...ranges].sort((a, b) => a.start - b.start || b.end - a.end)) {
    if (end <= covered) continue;
    bytes += Buffer.byteLength(text.slice(Math.max(start, covered), end));
    covered = end;
  }
  return bytes;
}

/** A part of a script whose declarations are used or removed together: all of it, a branch, or a declaration without effects. */
type Owner = Node;

/** Code that a script would lose if NODE_ENV were `production`. */
class Branches {
  readonly checks: Node[] = [];
  readonly #dead = new Set<Node>();
  readonly #declarations = new Set<Node>();
  readonly #uses = new Map<Owner, Set<Node>>();

  constructor(readonly program: Node) {
    walk(program, (node, ancestors) => {
      if (isNodeEnv(node)) this.checks.push(node);
      const branch = deadBranch(node);
      if (branch) this.#dead.add(branch);
      if (isRemovable(node)) this.#declarations.add(node);
      if (node.type === 'Identifier' && isReference(node, ancestors.at(-1))) this.#use(node, ancestors);
      return undefined;
    });
  }

  #use({ name }: Node, ancestors: readonly Node[]): void {
    const declaration = declarationOf(name as string, ancestors);
    if (!declaration || !isRemovable(declaration)) return;
    const owner = ancestors.findLast((one) => this.#dead.has(one) || this.#declarations.has(one)) ?? this.program;
    const uses = this.#uses.get(owner) ?? new Set();
    uses.add(declaration);
    this.#uses.set(owner, uses);
  }

  /** The dead branches, and the declarations that only they use. */
  removed(): Node[] {
    const live = this.#reached([this.program]);
    const only = [...this.#reached(this.#dead)].filter((one) => !live.has(one) && this.#declarations.has(one));
    return [...this.#dead, ...only];
  }

  #reached(from: Iterable<Owner>): Set<Owner> {
    const reached = new Set(from);
    // A set that grows while it is iterated yields what was added.
    for (const owner of reached) for (const used of this.#uses.get(owner) ?? []) reached.add(used);
    return reached;
  }
}

function isNodeEnv(node: Node): boolean {
  if (node.type !== 'MemberExpression' || propertyName(node) !== 'NODE_ENV') return false;
  const env = unwrap(node.object as Node);
  if (env.type !== 'MemberExpression' || propertyName(env) !== 'env') return false;
  const process = unwrap(env.object as Node);
  return process.name === 'process' || (process.type === 'MemberExpression' && propertyName(process) === 'process');
}

/** The part of a statement or expression that never runs if NODE_ENV is `production`. */
function deadBranch(node: Node): Node | undefined {
  if (node.type === 'IfStatement' || node.type === 'ConditionalExpression') {
    const test = settledValue(node.test as Node);
    if (test === undefined) return undefined;
    return ((test ? node.alternate : node.consequent) ?? undefined) as Node | undefined;
  }
  if (node.type !== 'LogicalExpression') return undefined;
  const left = settledValue(node.left as Node);
  const isDead = (node.operator === '&&' && left === false) || (node.operator === '||' && left === true);
  return isDead ? (node.right as Node) : undefined;
}

/** The value of an expression that depends on NODE_ENV alone; undefined for others. */
function settledValue(wrapped: Node): boolean | undefined {
  const node = unwrap(wrapped);
  if (node.type === 'UnaryExpression' && node.operator === '!') {
    const inner = settledValue(node.argument as Node);
    return inner === undefined ? undefined : !inner;
  }
  if (node.type === 'LogicalExpression') return logicalValue(node);
  if (node.type !== 'BinaryExpression' || !/^[!=]==?$/.test(node.operator as string)) return undefined;
  const [left, right] = [unwrap(node.left as Node), unwrap(node.right as Node)];
  const other = isNodeEnv(left) ? right : isNodeEnv(right) ? left : undefined;
  if (typeof other?.value !== 'string') return undefined;
  return (other.value === 'production') === (node.operator as string).startsWith('=');
}

function logicalValue({ operator, left, right }: Node): boolean | undefined {
  const values = [settledValue(left as Node), settledValue(right as Node)];
  const decisive = operator === '||';
  if (operator === '??') return undefined;
  if (values.includes(decisive)) return decisive;
  return values.includes(undefined) ? undefined : !decisive;
}

/** Tells whether a declaration has no effect of its own: a function, or a variable that wraps functions, as bundlers wrap modules. */
function isRemovable(node: Node): boolean {
  if (node.type === 'FunctionDeclaration') return true;
  const init = node.type === 'VariableDeclarator' && node.init ? unwrap(node.init as Node) : undefined;
  if (!init) return false;
  if (isFunction(init) || init.type === 'Literal') return true;
  return init.type === 'CallExpression' && (init.arguments as Node[]).length === 1 && wrapsFunctions(init);
}

function wrapsFunctions({ callee, arguments: given }: Node): boolean {
  const [only] = given as Node[];
  if ((callee as Node).type !== 'Identifier' || !only) return false;
  if (only.type !== 'ObjectExpression') return isFunction(only);
  return (only.properties as Node[]).every((one) => one.type === 'Property' && isFunction(one.value as Node));
}

function isFunction({ type }: Node): boolean {
  return type === 'FunctionExpression' || type === 'ArrowFunctionExpression';
}

/** Tells whether an identifier is the name of a variable, not of a property or label. */
function isReference(node: Node, parent: Node | undefined): boolean {
  if (parent?.type === 'MemberExpression') return parent.object === node || parent.computed === true;
  if (parent?.type === 'Property' || parent?.type === 'MethodDefinition' || parent?.type === 'PropertyDefinition')
    return parent.value === node || parent.computed === true;
  return !/^(Labeled|Break|Continue)Statement$/.test(parent?.type ?? '');
}
