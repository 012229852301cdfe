import type { Node } from './parse.js';
import { walk } from './walk.js';

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

const none: ReadonlyMap<string, Node> = new Map();

function namesDeclaredBy(node: Node): ReadonlyMap<string, Node> {
  const names = new Map<string, Node>();
  switch (node.type) {
    case 'Program':
    case 'BlockStatement':
    case 'StaticBlock':
      for (const statement of node.body as Node[]) statementNames(statement, names);
      if (node.type === 'Program') hoisted(node, names);
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
      for (const declarator of statement.declarations as Node[]) bind(declarator.id as Node, declarator, names);
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
    if (node !== owner && /Function|^Class/.test(node.type)) return false;
    if (node.type === 'VariableDeclaration' && node.kind === 'var') statementNames(node, names);
    return undefined;
  });
}

function bind(pattern: Node, declaration: Node, names: Map<string, Node>): void {
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
