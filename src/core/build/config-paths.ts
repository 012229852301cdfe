import { scriptLanguage } from '../files/languages.js';

/** Programs that run a script of the package. */
const runner = /^(npm|pnpm|yarn|bun|run-s|run-p|npm-run-all\d?|deno)$/;

/**
 * Paths of the configurations and build scripts that a command names, also through scripts of the package.
 * @param scripts those of package.json
 */
export function configPaths(command: string, scripts: Readonly<Record<string, string>>): string[] {
  const seen = new Set<string>();
  const found = new Set<string>();
  const visit = (line: string) => {
    if (seen.has(line)) return;
    seen.add(line);
    const words = line.split(/[\s"';&|()]+/);
    const runs = words.some((word) => runner.test(word));
    for (const word of words) {
      const path = word.replace(/^--?[\w-]+=/, '').replace(/^\.\//, '');
      if (scriptLanguage(path) !== undefined) found.add(path);
      const script = runs && Object.hasOwn(scripts, word) ? scripts[word] : undefined;
      if (script !== undefined) visit(script);
    }
  };
  visit(command);
  return [...found];
}
