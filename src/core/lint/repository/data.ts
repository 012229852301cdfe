import { parse as parseYaml } from 'yaml';

/** Parses a YAML text: null if it is empty, undefined if it is not valid YAML. */
export function yamlIn(text: string): unknown {
  try {
    return parseYaml(text);
  } catch {
    return undefined;
  }
}
