import type { Node } from './parse.js';
import { declarationOf } from './scopes.js';
import { isTypeOnly, nameOfImport, unwrap, walk } from './walk.js';

/** Data that an expression carries, with the place at which it enters. */
export interface Carried<Cargo> {
  cargo: Cargo;
  at: Node;
}

/** A program whose values are followed. The caller decides which data it carries, and why that matters. */
export interface FlowSource<Cargo> {
  program: Node;
  /** Data that expressions carry from the start, by their offsets: `start:end`. */
  cargo: ReadonlyMap<string, Cargo>;
  /** Data that an import carries. @param name `default` for the default export */
  imported(specifier: string, name: string): Cargo | undefined;
}

/** How deep expressions are followed: a sum of thousands of strings is as deep as it is long. */
const DEEPEST = 200;

/**
 * Follows values through a program: through assignments, templates, objects, calls that only change their form, arguments and
 * results of the program's own functions, and imports. The result of a foreign function is not followed.
 */
export class DataFlow<Cargo> {
  /** Declarations to the names that they bind, to what those carry. */
  readonly #carried = new Map<Node, Map<string, Cargo>>();
  /** Functions whose results are being followed, which may call each other. */
  readonly #calls = new Set<Node>();
  #level = 0;

  constructor(readonly source: FlowSource<Cargo>) {
    walk(source.program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'VariableDeclarator') this.#declare(node, ancestors);
      return undefined;
    });
    walk(source.program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'CallExpression') this.#bindParameters(node, ancestors);
      return undefined;
    });
  }

  /** Data that an export of this file carries. @param name `default` for the default export */
  exported(name: string): Cargo | undefined {
    const { program } = this.source;
    for (const statement of program.body as Node[]) {
      const isDefault = statement.type === 'ExportDefaultDeclaration';
      if (!isDefault && statement.type !== 'ExportNamedDeclaration') continue;
      const declaration = statement.declaration as Node | null;
      if (isDefault && name === 'default' && declaration) return this.#result(declaration, [program, statement]);
      if (declaration?.type === 'FunctionDeclaration' && (declaration.id as Node).name === name)
        return this.#result(declaration, [program, statement]);
      if (declaration?.type !== 'VariableDeclaration') continue;
      const found = (declaration.declarations as Node[]).find(({ id }) => (id as Node).name === name);
      if (found?.init) return this.#result(found.init as Node, [program, statement, declaration, found]);
    }
    return undefined;
  }

  /** Arguments of the file's own functions are values of their parameters. */
  #bindParameters(node: Node, ancestors: readonly Node[]): void {
    const callee = unwrap(node.callee as Node);
    const declaration = callee.type === 'Identifier' ? declarationOf(callee.name as string, ancestors) : undefined;
    const target = declaration?.type === 'VariableDeclarator' ? (declaration.init as Node | null) : declaration;
    if (!target || !/Function/.test(target.type)) return;
    for (const [index, parameter] of (target.params as Node[]).entries()) {
      const argument = (node.arguments as Node[])[index];
      const [first] = argument && parameter.type === 'Identifier' ? this.carriedBy(argument, ancestors) : [];
      if (first) this.#carried.set(parameter, new Map([[parameter.name as string, first.cargo]]));
    }
  }

  /** Data of a value, or of a function's result. */
  #result(node: Node, ancestors: readonly Node[]): Cargo | undefined {
    const inner = unwrap(node);
    if (!/Function/.test(inner.type)) return this.carriedBy(inner, ancestors)[0]?.cargo;
    const within = [...ancestors, inner];
    if (inner.type === 'ArrowFunctionExpression' && inner.expression)
      return this.carriedBy(inner.body as Node, within)[0]?.cargo;
    let found: Cargo | undefined;
    walk(inner.body as Node, (one, above) => {
      if (found || /Function|^Class/.test(one.type)) return false;
      if (one.type === 'ReturnStatement' && one.argument)
        found = this.carriedBy(one.argument as Node, [...within, ...above])[0]?.cargo;
      return undefined;
    });
    return found;
  }

  #declare(node: Node, ancestors: readonly Node[]): void {
    const id = node.id as Node;
    if (id.type === 'Identifier') {
      const [first] = node.init ? this.carriedBy(node.init as Node, ancestors) : [];
      if (first) this.#carried.set(node, new Map([[id.name as string, first.cargo]]));
      return;
    }
    if (id.type !== 'ObjectPattern') return;
    const names = new Map<string, Cargo>();
    for (const property of id.properties as Node[]) {
      const cargo = this.source.cargo.get(`${property.start}:${property.end}`);
      const target = (property.type === 'RestElement' ? property.argument : property.value) as Node;
      const local = target.type === 'AssignmentPattern' ? (target.left as Node) : target;
      if (cargo && local.type === 'Identifier') names.set(local.name as string, cargo);
    }
    if (names.size > 0) this.#carried.set(node, names);
  }

  /** Data that an expression passes on, each with the place at which it enters. */
  carriedBy(node: Node, ancestors: readonly Node[]): Carried<Cargo>[] {
    if (this.#level > DEEPEST) return [];
    this.#level++;
    const found = this.#cargoOf(node, ancestors);
    this.#level--;
    return found;
  }

  #cargoOf(node: Node, ancestors: readonly Node[]): Carried<Cargo>[] {
    const at = unwrap(node);
    const own = this.source.cargo.get(`${at.start}:${at.end}`);
    if (own) return [{ cargo: own, at }];
    const all = (nodes: readonly (Node | null | undefined)[]) =>
      nodes.flatMap((one) => (one ? this.carriedBy(one, ancestors) : []));
    switch (at.type) {
      case 'Identifier': {
        const declaration = declarationOf(at.name as string, ancestors);
        const cargo = declaration && this.#declared(declaration, at.name as string);
        return cargo ? [{ cargo, at }] : [];
      }
      case 'TemplateLiteral':
        return all(at.expressions as Node[]);
      case 'BinaryExpression':
        return at.operator === '+' ? all([at.left as Node, at.right as Node]) : [];
      case 'LogicalExpression':
        return all([at.left as Node, at.right as Node]);
      case 'ConditionalExpression':
        return all([at.consequent as Node, at.alternate as Node]);
      case 'ObjectExpression':
        return all(
          (at.properties as Node[]).map((one) => (one.type === 'SpreadElement' ? one.argument : one.value) as Node),
        );
      case 'ArrayExpression':
        return all(
          (at.elements as (Node | null)[]).map((one) => (one?.type === 'SpreadElement' ? (one.argument as Node) : one)),
        );
      case 'AwaitExpression':
        return all([at.argument as Node]);
      case 'CallExpression':
        return this.#throughCall(at, ancestors);
      default:
        return [];
    }
  }

  /** Data that a local name or an import carries. */
  #declared(declaration: Node, name: string): Cargo | undefined {
    const own = this.#carried.get(declaration)?.get(name);
    if (own || !/^Import(Default)?Specifier$/.test(declaration.type)) return own;
    const imported = declaration.type === 'ImportSpecifier' ? nameOfImport(declaration) : 'default';
    const specifier = (declaration.source as Node | undefined)?.value as string | undefined;
    return specifier === undefined ? undefined : this.source.imported(specifier, imported);
  }

  /** Calls that return the same text in another form, and calls of the project's own functions. */
  #throughCall(node: Node, ancestors: readonly Node[]): Carried<Cargo>[] {
    const callee = unwrap(node.callee as Node);
    const [argument] = node.arguments as Node[];
    if (argument && sameText.test(calleeName(callee))) return this.carriedBy(argument, ancestors);
    if (callee.type === 'Identifier') return this.#throughFunction(node, callee.name as string, ancestors);
    const isForm = callee.type === 'MemberExpression' && sameTextMethod.test((callee.property as Node).name as string);
    return isForm ? this.carriedBy(callee.object as Node, ancestors) : [];
  }

  #throughFunction(node: Node, name: string, ancestors: readonly Node[]): Carried<Cargo>[] {
    const declaration = declarationOf(name, ancestors);
    if (!declaration || this.#calls.has(declaration)) return [];
    this.#calls.add(declaration);
    const isOwn = declaration.type === 'FunctionDeclaration';
    const init = declaration.type === 'VariableDeclarator' ? (declaration.init as Node | null) : null;
    const isFunction = init !== null && /Function/.test(unwrap(init).type);
    const cargo = isOwn
      ? this.#result(declaration, ancestors)
      : isFunction
        ? this.#result(init, ancestors)
        : this.#declared(declaration, name);
    this.#calls.delete(declaration);
    return cargo ? [{ cargo, at: node }] : [];
  }
}

const sameText =
  /^(JSON\.stringify|String|btoa|encodeURIComponent|Object\.(entries|fromEntries|assign|keys|values)|Buffer\.from)$/;
const sameTextMethod = /^(trim|slice|toString|concat|replace|toLowerCase|toUpperCase|substring|padEnd|padStart)$/;

/** `console.log` of a callee; empty where it is computed. */
export function calleeName(node: Node): string {
  const inner = unwrap(node);
  if (inner.type === 'Identifier') return inner.name as string;
  if (inner.type === 'MemberExpression' && !inner.computed) {
    const object = calleeName(inner.object as Node);
    return `${object}.${(inner.property as Node).name as string}`;
  }
  if (inner.type === 'CallExpression') return `${calleeName(inner.callee as Node)}()`;
  return '';
}
