import type { Material } from './material.js';

/** Files that often name variables of the environment, in languages whose reads Adder does not find. */
const others =
  /(^|\/)(Makefile|Dockerfile|Procfile|Jenkinsfile|Rakefile)$|\.(py|rb|php|java|kts?|go|rs|cs|exs?|swift|gradle|sh|bash|zsh|mk|in|tmpl|erb|twig|tf|conf|service|properties|ya?ml)$/;

/**
 * Names that code has in it without a read that Adder knows, or that files in other languages have, each with the first place:
 * `shop/settings.py:2`.
 */
export function namedElsewhere(
  names: readonly string[],
  { paths, text, files, modules }: Material,
): Map<string, string> {
  const values = new Set(files.map(({ path }) => path));
  const found = new Map<string, string>();
  const named = paths.filter((one) => (modules.has(one) || others.test(one)) && !values.has(one));
  const patterns = names.map((name) => [name, new RegExp(`(?<![A-Za-z0-9_])${name}(?![A-Za-z0-9_])`)] as const);
  for (const path of named) {
    if (found.size === names.length) break;
    const content = modules.get(path)?.text ?? text(path) ?? '';
    for (const [name, pattern] of patterns) {
      const at = found.has(name) ? -1 : content.search(pattern);
      if (at >= 0) found.set(name, `${path}:${content.slice(0, at).split('\n').length}`);
    }
  }
  return found;
}
