import { joinedName } from '../resolve/keyed.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { walk } from '../syntax/walk.js';

/**
 * Values that a framework's server put into a script when it started: constants in the object under one property, or in the variable of
 * that name. Nested keys are joined: `public: { api: { url } }` is API_URL.
 * @param property such as `public`
 * @param names names in the bundle's code, without their prefix or with it, to variables
 * @returns by variable
 */
export function startedValues(text: string, property: string, names: ReadonlyMap<string, string>): Map<string, string> {
  const values = new Map<string, string>();
  if (!new RegExp(`\\b${property}\\b`).test(text)) return values;
  const { program, problem } = parseSyntax(text, 'js');
  if (problem) return values;
  const collect = (object: Node, keys: readonly string[]): void => {
    for (const one of object.properties as Node[]) {
      const key = one.type === 'Property' ? nameOf(one.key as Node) : undefined;
      const value = one.value as Node | undefined;
      if (key === undefined || !value) continue;
      const path = [...keys, key];
      if (value.type === 'ObjectExpression') collect(value, path);
      const variable = names.get(path.join('.')) ?? names.get(joinedName(path));
      if (value.type === 'Literal' && variable !== undefined && !values.has(variable))
        values.set(variable, value.value === null ? '' : String(value.value));
    }
  };
  walk(program, (node) => {
    const [key, value] =
      node.type === 'Property'
        ? [node.key, node.value]
        : node.type === 'VariableDeclarator'
          ? [node.id, node.init]
          : [];
    const object = value as Node | undefined;
    if (object?.type === 'ObjectExpression' && nameOf(key as Node) === property) collect(object, []);
    return undefined;
  });
  return values;
}

function nameOf(key: Node): string | undefined {
  const name = key.type === 'Identifier' ? key.name : key.value;
  return typeof name === 'string' ? name : undefined;
}
