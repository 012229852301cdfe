import type { Node } from './parse.js';
import { unwrap, walk } from './walk.js';

const declared = new WeakMap<Node, ReadonlyMap<string, Node>>();

/**
 * The node that declares a name at some place of the tree: its declarator, parameter, import or function.
 * @param ancestors from the root to the place
 * @returns undefined for a global name
 */
export function declarationOf(name: string, ancestors: readonly Node[]): Node | undefined {
  for (let at = ancestors.length - 1; at >= 0; at--) {
    const scope = ancestors[at] as Node;
    const names = declared.get(scope) ?? namesDeclaredBy(scope);
    declared.set(scope, names);
    const declaration = names.get(name);
    if (declaration) return declaration;
  }
  return undefined;
}

/** Keywords of the declarations that declarators belong to. */
const keywords = new WeakMap<Node, string>();

/**
 * Tells whether a variable keeps the value of its declarator: a `const`, or a variable that no code of the tree writes again.
 * @param declarator as {@link declarationOf} returns it
 * @param ancestors from the root to any place of the tree
 * @param onlyConst for components and pages, whose markup or other scripts may write a `let` or `var`
 */
export function isConstant(declarator: Node, ancestors: readonly Node[], onlyConst = false): boolean {
  if (declarator.type !== 'VariableDeclarator' || !declarator.init) return false;
  const keyword = keywords.get(declarator) ?? 'var';
  if (keyword !== 'let' && keyword !== 'var') return true;
  return !onlyConst && !writtenIn(ancestors[0] as Node).variables.has(declarator);
}

/** Tells whether code of the tree writes a property of a variable's object, as in `name.key = value` or `delete name.key`. */
export function hasWrittenProperties(declarator: Node, ancestors: readonly Node[]): boolean {
  return writtenIn(ancestors[0] as Node).owners.has(declarator);
}

/** An expression whose value a variable gets, and where it stands. */
interface AssignedValue {
  node: Node;
  ancestors: readonly Node[];
}

/** Every value that a variable may have: its initial one, and those of assignments. */
export function assignedValues(declarator: Node, ancestors: readonly Node[]): AssignedValue[] {
  const found: AssignedValue[] = [];
  walk(ancestors[0] as Node, (node, above) => {
    if (node === declarator && node.init) found.push({ node: node.init as Node, ancestors: [...above] });
    if (node.type !== 'AssignmentExpression') return undefined;
    const isTarget = targetNames(node.left as Node).some((name) => declarationOf(name, above) === declarator);
    if (isTarget) found.push({ node: node.right as Node, ancestors: [...above] });
    return undefined;
  });
  return found;
}

interface Written {
  /** Declarations whose variables are written after their declaration: assigned, counted, set by a loop, or declared again. */
  variables: ReadonlySet<Node>;
  /** Declarations of variables whose properties are written. */
  owners: ReadonlySet<Node>;
}

const written = new WeakMap<Node, Written>();

function writtenIn(program: Node): Written {
  const known = written.get(program);
  if (known) return known;
  const found = { variables: new Set<Node>(), owners: new Set<Node>() };
  written.set(program, found);
  walk(program, (node, ancestors) => {
    const around = [...ancestors, node];
    const write = (name: string, into = found.variables) => {
      const declaration = declarationOf(name, around);
      if (declaration) into.add(declaration);
    };
    const target = writtenTarget(node);
    if (target) {
      const object = target.type === 'MemberExpression' ? unwrap(target.object as Node) : undefined;
      if (object?.type === 'Identifier') write(object.name as string, found.owners);
      for (const name of targetNames(target)) write(name);
    } else if (node.type === 'ForInStatement' || node.type === 'ForOfStatement') {
      const left = node.left as Node;
      const targets =
        left.type === 'VariableDeclaration' ? (left.declarations as Node[]).map(({ id }) => id as Node) : [left];
      for (const name of targets.flatMap(targetNames)) write(name);
    } else if (node.type === 'VariableDeclarator' && ancestors.at(-1)?.kind === 'var') {
      const again = targetNames(node.id as Node).filter((name) => declarationOf(name, around) !== node);
      for (const name of again) write(name);
    }
    return undefined;
  });
  return found;
}

/** The target of an assignment, of `++`, `--` or `delete`. */
function writtenTarget({ type, left, argument, operator }: Node): Node | undefined {
  if (type === 'AssignmentExpression') return unwrap(left as Node);
  const isWrite = type === 'UpdateExpression' || (type === 'UnaryExpression' && operator === 'delete');
  return isWrite ? unwrap(argument as Node) : undefined;
}

/** Names of the variables that an assignment to this target writes; members of objects are none. */
function targetNames(target: Node): string[] {
  const names = new Map<string, Node>();
  bind(target, target, names);
  return [...names.keys()];
}

const none: ReadonlyMap<string, Node> = new Map();

function namesDeclaredBy(node: Node): ReadonlyMap<string, Node> {
  const names = new Map<string, Node>();
  switch (node.type) {
    case 'Program':
    case 'BlockStatement':
    case 'StaticBlock':
    case 'TSModuleBlock':
      for (const statement of node.body as Node[]) statementNames(statement, names);
      if (node.type !== 'BlockStatement') hoisted(node, names);
      return names;
    case 'FunctionDeclaration':
    case 'FunctionExpression':
    case 'ArrowFunctionExpression':
      if (node.type === 'FunctionExpression' && node.id) bind(node.id as Node, node, names);
      for (const parameter of node.params as Node[]) bind(parameter, parameter, names);
      hoisted(node, names);
      return names;
    case 'ForStatement':
      if (node.init) statementNames(node.init as Node, names);
      return names;
    case 'ForInStatement':
    case 'ForOfStatement':
      statementNames(node.left as Node, names);
      return names;
    case 'SwitchStatement':
      for (const one of node.cases as Node[])
        for (const statement of one.consequent as Node[]) statementNames(statement, names);
      return names;
    case 'CatchClause':
      if (node.param) bind(node.param as Node, node, names);
      return names;
    case 'ClassExpression':
      if (node.id) bind(node.id as Node, node, names);
      return names;
    default:
      return none;
  }
}

function statementNames(statement: Node, names: Map<string, Node>): void {
  switch (statement.type) {
    case 'VariableDeclaration':
      // An ambient declaration describes a name that something else defines.
      if (statement.declare) break;
      for (const declarator of statement.declarations as Node[]) keywords.set(declarator, statement.kind as string);
      if (statement.kind !== 'var') bindDeclarators(statement, names);
      break;
    case 'FunctionDeclaration':
    case 'ClassDeclaration':
    case 'TSEnumDeclaration':
      if (statement.id) bind(statement.id as Node, statement, names);
      break;
    case 'ImportDeclaration':
      for (const specifier of statement.specifiers as Node[]) {
        names.set((specifier.local as Node).name as string, { ...specifier, source: statement.source });
      }
      break;
    case 'ExportNamedDeclaration':
    case 'ExportDefaultDeclaration':
      if (statement.declaration) statementNames(statement.declaration as Node, names);
      break;
  }
}

/** `var` belongs to the enclosing function, at any depth. */
function hoisted(owner: Node, names: Map<string, Node>): void {
  walk(owner, (node) => {
    if (node !== owner && /Function|^Class|^StaticBlock$|^TSModuleBlock$/.test(node.type)) return false;
    if (node.type !== 'VariableDeclaration' || node.kind !== 'var' || node.declare) return undefined;
    for (const declarator of node.declarations as Node[]) keywords.set(declarator, 'var');
    bindDeclarators(node, names);
    return undefined;
  });
}

function bindDeclarators({ declarations }: Node, names: Map<string, Node>): void {
  for (const declarator of declarations as Node[]) bind(declarator.id as Node, declarator, names);
}

function bind(wrapped: Node, declaration: Node, names: Map<string, Node>): void {
  const pattern = unwrap(wrapped);
  switch (pattern.type) {
    case 'Identifier':
      if (!names.has(pattern.name as string)) names.set(pattern.name as string, declaration);
      break;
    case 'ObjectPattern':
      for (const property of pattern.properties as Node[])
        bind((property.type === 'RestElement' ? property.argument : property.value) as Node, declaration, names);
      break;
    case 'ArrayPattern':
      for (const element of pattern.elements as (Node | null)[]) if (element) bind(element, declaration, names);
      break;
    case 'AssignmentPattern':
      bind(pattern.left as Node, declaration, names);
      break;
    case 'RestElement':
      bind(pattern.argument as Node, declaration, names);
      break;
    case 'TSParameterProperty':
      bind(pattern.parameter as Node, declaration, names);
      break;
  }
}
