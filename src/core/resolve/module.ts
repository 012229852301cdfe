import { finding } from '../findings/finding.js';
import { globalObject } from '../syntax/globals.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf } from '../syntax/scopes.js';
import { constantText, unwrap } from '../syntax/walk.js';
import { textPlaces } from '../text/positions.js';
import { joinedName, KeyedLayer } from './keyed.js';
import type { ReadLayer } from './layer.js';

/** How many steps a constant may refer to another one. */
const DEEPEST = 20;

/**
 * A layer that is a JavaScript or TypeScript module of constants, such as `environment.prod.ts`. It is parsed, never run:
 * anything that is not a constant is reported and ignored. A script that gives an object to the page (`window.config = {…}`) is one
 * too. The keys of its only exported object become names, as in a
 * JSON layer. If it has several exports, their names precede the keys.
 * @param key only the values under this key, such as those of one stage in `{ development: {…}, production: {…} }`
 */
export function readModuleLayer(name: string, path: string, text: string, key?: string): ReadLayer {
  const layer = new KeyedLayer(name, path, textPlaces(text), key);
  const { program, problem } = parseSyntax(text, /\.[cm]?ts$/.test(path) ? 'ts' : 'js');
  if (problem) layer.reportWhole(problem.offset, finding('file/syntax', 'module', {}));
  else new ModuleReader(program, layer).read();
  return layer.done();
}

class ModuleReader {
  constructor(
    readonly program: Node,
    readonly layer: KeyedLayer,
  ) {}

  read(): void {
    const exported = exportsOf(this.program).map(({ key, value }) => ({ key, value: this.#table(value) }));
    const [only, ...others] = exported;
    if (!only) {
      this.layer.reportWhole(0, finding('file/syntax', 'no-export', {}));
      return;
    }
    if (others.length === 0 && only.value.type === 'ObjectExpression') this.#object(only.value, [], 0);
    else for (const { key, value } of exported) this.#value(value, [key], 0);
  }

  #object(node: Node, keys: readonly string[], depth: number): void {
    for (const property of node.properties as Node[]) {
      if (property.type !== 'Property') {
        const spread = this.#constant(property.argument as Node);
        if (spread.type === 'ObjectExpression' && depth < DEEPEST) this.#object(spread, keys, depth + 1);
        else this.#unknown(keys, property, 'spreads an object from another module');
        continue;
      }
      const key = property.key as Node;
      const name = property.computed ? constantText(key) : String(key.name ?? key.value);
      if (name === undefined) this.#unknown(keys, key, 'has a computed key');
      else this.#value(property.value as Node, [...keys, name], depth, key.start);
    }
  }

  #value(node: Node, keys: readonly string[], depth: number, offset = node.start): void {
    const value = this.#constant(node);
    if (value.type === 'ObjectExpression' && depth < DEEPEST) {
      this.#object(value, keys, depth + 1);
      return;
    }
    const constant = jsonOf(value);
    if (constant === undefined) this.#unknown(keys, node, 'is computed when the module runs');
    else if (constant !== null)
      this.layer.offer(keys, typeof constant === 'string' ? constant : JSON.stringify(constant), offset);
  }

  /** The constant that is exported; of `settings[stage]`, with a key that chooses the stage, the whole object. */
  #table(node: Node): Node {
    const value = this.#constant(node);
    const { type, computed, object } = value as Node & { computed?: boolean; object: Node };
    return this.layer.key !== undefined && type === 'MemberExpression' && computed ? this.#constant(object) : value;
  }

  /** The value of a name, if it is a constant of the module itself. */
  #constant(node: Node): Node {
    let inner = unwrap(node);
    for (let step = 0; step < DEEPEST && inner.type === 'Identifier'; step++) {
      const declaration = declarationOf(inner.name as string, [this.program]);
      if (declaration?.type !== 'VariableDeclarator' || !declaration.init) break;
      inner = unwrap(declaration.init as Node);
    }
    return inner;
  }

  #unknown(keys: readonly string[], { start }: Node, what: string): void {
    if (!this.layer.covers(keys)) return;
    const name = keys.length === 0 ? 'the module' : joinedName(keys);
    this.layer.report(start, finding('file/syntax', 'no-constant', { name, problem: what }, { level: 'warning' }));
  }
}

/** The exported constants of a module, in the order of the text. */
function exportsOf(program: Node): { key: string; value: Node }[] {
  return (program.body as Node[]).flatMap((statement) => {
    if (statement.type === 'ExportDefaultDeclaration')
      return [{ key: 'default', value: statement.declaration as Node }];
    if (statement.type === 'ExportNamedDeclaration') return namedExports(statement);
    const ofPage = globalObject(statement);
    if (ofPage) return [ofPage];
    if (statement.type !== 'ExpressionStatement') return [];
    const { type, left, right } = unwrap(statement.expression as Node) as Node & { left: Node; right: Node };
    const isExport = type === 'AssignmentExpression' && left.type === 'MemberExpression';
    const target = isExport ? (left.object as Node) : undefined;
    return target?.type === 'Identifier' && target.name === 'module' ? [{ key: 'exports', value: right }] : [];
  });
}

function namedExports({ declaration, specifiers, source }: Node): { key: string; value: Node }[] {
  const declared = declaration as Node | null;
  if (declared?.type === 'VariableDeclaration') {
    return (declared.declarations as Node[]).flatMap(({ id, init }) =>
      (id as Node).type === 'Identifier' && init ? [{ key: (id as Node).name as string, value: init as Node }] : [],
    );
  }
  if (declared || source) return [];
  return (specifiers as Node[]).map(({ local, exported }) => ({
    key: String((exported as Node).name ?? (exported as Node).value),
    value: local as Node,
  }));
}

/** A constant as a JSON value; undefined for anything else. */
function jsonOf(node: Node): string | number | boolean | null | unknown[] | undefined {
  const inner = unwrap(node);
  const text = constantText(inner);
  if (text !== undefined) return text;
  if (inner.type === 'Literal' && ['number', 'boolean'].includes(typeof inner.value))
    return inner.value as number | boolean;
  if (inner.type === 'Literal' && inner.raw === 'null') return null;
  if (inner.type === 'Identifier' && inner.name === 'undefined') return null;
  if (inner.type === 'UnaryExpression' && inner.operator === '-') {
    const number = jsonOf(inner.argument as Node);
    return typeof number === 'number' ? -number : undefined;
  }
  if (inner.type !== 'ArrayExpression') return undefined;
  const items = (inner.elements as (Node | null)[]).map((one) => (one ? jsonOf(one) : undefined));
  return items.includes(undefined) ? undefined : items;
}
