import type { Node } from './parse.js';
import { declarationOf } from './scopes.js';
import { isTypeOnly, unwrap, walk } from './walk.js';

/** A text that a script puts together from constant pieces. Offsets are UTF-16 code units. */
export interface Folded {
  text: string;
  start: number;
  end: number;
}

type Value = string | number | readonly Value[];

/** Names are followed from one to the next so often. */
const DEEPEST = 40;

/**
 * Every outermost expression of a script that is a text put together from constants: `"ab" + "cd"`, templates, joined and reversed lists,
 * character codes, decoded base64, and names of constants in all of these.
 */
export function foldedTexts(program: Node): Folded[] {
  const folder = new Folder();
  const found: Folded[] = [];
  walk(program, (node, ancestors) => {
    if (isTypeOnly(node)) return false;
    if (!/^(BinaryExpression|TemplateLiteral|CallExpression)$/.test(node.type)) return undefined;
    const text = folder.value(node, ancestors, 0);
    if (typeof text !== 'string') return undefined;
    found.push({ text, start: node.start, end: node.end });
    return false;
  });
  return found;
}

class Folder {
  readonly #known = new Map<Node, Value | undefined>();

  /** Constant value of an expression. */
  value(wrapped: Node, ancestors: readonly Node[], depth: number): Value | undefined {
    const node = unwrap(wrapped);
    if (depth > DEEPEST) return undefined;
    if (!this.#known.has(node)) {
      // A name that refers to itself, directly or not, has no value.
      this.#known.set(node, undefined);
      this.#known.set(node, this.#evaluate(node, ancestors, depth + 1));
    }
    return this.#known.get(node);
  }

  #evaluate(node: Node, ancestors: readonly Node[], depth: number): Value | undefined {
    const value = (one: unknown) => this.value(one as Node, ancestors, depth);
    switch (node.type) {
      case 'Literal':
        return typeof node.value === 'string' || typeof node.value === 'number' ? node.value : undefined;
      case 'Identifier': {
        const declaration = declarationOf(node.name as string, ancestors);
        return declaration?.type === 'VariableDeclarator' && declaration.init ? value(declaration.init) : undefined;
      }
      case 'TemplateLiteral':
        return template(node.quasis as { value: { cooked: string | null } }[], (node.expressions as Node[]).map(value));
      case 'BinaryExpression':
        return node.operator === '+' ? this.#sum(node, value) : undefined;
      case 'ArrayExpression':
        return all((node.elements as (Node | null)[]).map((one) => (one ? value(one) : undefined)));
      case 'CallExpression':
        return this.#call(node, value);
      default:
        return undefined;
    }
  }

  /** A sum of many texts is a tree as deep as the sum is long: its left side is followed here, and not by calls. */
  #sum(node: Node, value: (node: unknown) => Value | undefined): Value | undefined {
    const sums: Node[] = [];
    let first = node;
    while (first.type === 'BinaryExpression' && first.operator === '+' && (first === node || !this.#known.has(first))) {
      sums.push(first);
      first = unwrap(first.left as Node);
    }
    let total = value(first);
    for (const one of sums.reverse()) {
      total = sum(total, value(one.right));
      this.#known.set(one, total);
    }
    return total;
  }

  #call(node: Node, value: (node: unknown) => Value | undefined): Value | undefined {
    const given = (node.arguments as Node[]).flatMap((one) => {
      const inner = one.type === 'SpreadElement' ? value(one.argument) : [value(one)];
      return Array.isArray(inner) ? inner : [undefined];
    });
    const args = all(given);
    if (!args) return undefined;
    const callee = unwrap(node.callee as Node);
    if (callee.type === 'Identifier') return callee.name === 'atob' ? fromBase64(args[0]) : undefined;
    if (callee.type !== 'MemberExpression' || callee.computed) return undefined;
    const object = callee.object as Node;
    const method = (callee.property as Node).name as string;
    if (object.type === 'Identifier' && object.name === 'String') return characters(method, args);
    return ofValue(value(object), method, args);
  }
}

function all(values: readonly (Value | undefined)[]): readonly Value[] | undefined {
  return values.every((one) => one !== undefined) ? (values as readonly Value[]) : undefined;
}

function sum(left: Value | undefined, right: Value | undefined): Value | undefined {
  if (typeof left === 'number' && typeof right === 'number') return left + right;
  const isText = typeof left === 'string' || typeof right === 'string';
  return isText && left !== undefined && right !== undefined && !Array.isArray(left) && !Array.isArray(right)
    ? `${left}${right}`
    : undefined;
}

function template(
  texts: readonly { value: { cooked: string | null } }[],
  values: readonly (Value | undefined)[],
): string | undefined {
  const parts = all(values);
  if (!parts || parts.some((one) => Array.isArray(one))) return undefined;
  return texts.map(({ value }, index) => `${value.cooked ?? ''}${parts[index] ?? ''}`).join('');
}

function characters(method: string, args: readonly Value[]): string | undefined {
  const codes = args.filter((one): one is number => typeof one === 'number' && one >= 0 && one <= 0x10ffff);
  if (!/^from(CharCode|CodePoint)$/.test(method) || codes.length !== args.length) return undefined;
  // There may be more of them than a call takes arguments.
  const character = (code: number) =>
    method === 'fromCharCode' ? String.fromCharCode(code) : String.fromCodePoint(Math.trunc(code));
  return codes.map(character).join('');
}

function fromBase64(value: Value | undefined): string | undefined {
  return typeof value === 'string' ? Buffer.from(value, 'base64').toString('latin1') : undefined;
}

/** The methods that code is put together with. */
function ofValue(value: Value | undefined, method: string, [first]: readonly Value[]): Value | undefined {
  const isPlain = first === undefined || typeof first === 'string';
  if (Array.isArray(value)) {
    if (method === 'join' && isPlain) return value.join(first ?? ',');
    return method === 'reverse' ? [...value].reverse() : undefined;
  }
  if (typeof value !== 'string') return undefined;
  if (method === 'split' && typeof first === 'string') return value.split(first);
  return method === 'concat' && isPlain ? value + (first ?? '') : undefined;
}
