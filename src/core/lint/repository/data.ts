import { parse as parseYaml } from 'yaml';

/** What a JSON text holds; undefined if it is not valid JSON. */
export function jsonIn(text: string): unknown {
  return parsed(() => JSON.parse(text));
}

/** What a YAML text holds, null if nothing; undefined if it is not valid YAML. */
export function yamlIn(text: string): unknown {
  return parsed(() => parseYaml(text));
}

function parsed(parse: () => unknown): unknown {
  try {
    return parse();
  } catch {
    return undefined;
  }
}
