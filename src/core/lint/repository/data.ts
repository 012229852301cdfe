import { parse as parseYaml } from 'yaml';

/** What a YAML text holds, null if nothing; undefined if it is not valid YAML. */
export function yamlIn(text: string): unknown {
  try {
    return parseYaml(text);
  } catch {
    return undefined;
  }
}
