import { joinedName } from '../resolve/keyed.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { unwrap, walk } from '../syntax/walk.js';

/**
 * The constants of a settings script: properties of an object literal (`window.env = { API_URL: '...' }`), and assignments to
 * members (`env.API_URL = '...'`). Values are JSON.
 * @param names the script counts only if it sets all of these
 */
export function settingsIn(text: string, names: readonly string[]): Map<string, string> | undefined {
  const letters = text.toUpperCase();
  // A quick test: a key may be `apiUrl` for API_URL.
  if (!names.every((name) => letters.includes(name) || letters.includes(name.replaceAll('_', '')))) return undefined;
  const { program, problem } = parseSyntax(text, 'js');
  if (problem) return undefined;
  const values = new Map<string, string>();
  const add = (key: Node, value: Node) => set(values, names, key, value);
  walk(program, (node) => {
    if (node.type === 'Property') add(node.key as Node, node.value as Node);
    if (node.type !== 'AssignmentExpression') return undefined;
    const target = unwrap(node.left as Node);
    if (target.type === 'MemberExpression') add(target.property as Node, node.right as Node);
    return undefined;
  });
  return names.every((name) => values.has(name)) ? values : undefined;
}

function set(values: Map<string, string>, names: readonly string[], key: Node, value: Node): void {
  const inner = unwrap(value);
  const written = key.type === 'Identifier' ? (key.name as string) : (key.value as string | undefined);
  if (typeof written !== 'string') return;
  const name = names.includes(written) ? written : (names.find((one) => one === joinedName([written])) ?? written);
  if (inner.type !== 'Literal' || values.has(name)) return;
  values.set(name, JSON.stringify(inner.value).replaceAll('</', '<\\/'));
}
