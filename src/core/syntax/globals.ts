import { type Node, parseSyntax } from './parse.js';
import { constantText, unwrap } from './walk.js';

/** An object that a script gives to the whole page: `window.config = { … }`. */
export interface GlobalObject {
  /** As code reads it: `window.config`. */
  path: string;
  key: string;
  /** The object, without `Object.freeze` around it. */
  value: Node;
}

/** The object that a statement gives to the whole page; undefined for any other statement. */
export function globalObject(statement: Node): GlobalObject | undefined {
  if (statement.type !== 'ExpressionStatement') return undefined;
  const { type, left, right } = unwrap(statement.expression as Node) as Node & { left: Node; right: Node };
  if (type !== 'AssignmentExpression' || left.type !== 'MemberExpression') return undefined;
  const [object, property] = [left.object as Node, left.property as Node];
  const key = left.computed ? constantText(property) : (property.name as string);
  const isPage = object.type === 'Identifier' && /^(window|globalThis|self)$/.test(object.name as string);
  const value = unfrozen(unwrap(right));
  return isPage && key !== undefined && value.type === 'ObjectExpression'
    ? { path: `${object.name}.${key}`, key, value }
    : undefined;
}

function unfrozen(node: Node): Node {
  const { type, callee, arguments: args } = node as Node & { callee: Node; arguments: Node[] };
  const isFreeze = type === 'CallExpression' && (callee.property as Node | undefined)?.name === 'freeze';
  return isFreeze && args[0] ? unwrap(args[0]) : node;
}

/** The first such object of a script, with the names of its keys. */
export function globalSettings(text: string): { path: string; names: string[] } | undefined {
  const { program, problem } = parseSyntax(text, 'js');
  const found = problem ? undefined : (program.body as Node[]).map(globalObject).find((one) => one !== undefined);
  if (!found) return undefined;
  const names = (found.value.properties as Node[]).flatMap(({ type, key, computed }) =>
    type === 'Property' && !computed ? [String((key as Node).name ?? (key as Node).value)] : [],
  );
  return names.length === 0 ? undefined : { path: found.path, names };
}
