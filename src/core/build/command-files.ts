import { isInPackages } from '../files/directories.js';
import { scriptLanguage } from '../files/languages.js';

/** Programs that run a script of the package. */
const runner = /^(npm|pnpm|yarn|bun|run-s|run-p|npm-run-all\d?|deno)$/;

/** The files and lines that a command runs, as far as its words and the scripts of the package say. */
export interface CommandFiles {
  /** The command, and each script that it runs. */
  lines: readonly string[];
  /** Paths of the configurations and of scripts in JavaScript or TypeScript. */
  scripts: readonly string[];
  /** Paths of shell scripts. */
  shell: readonly string[];
}

/** @param scripts those of package.json */
export function commandFiles(command: string, scripts: Readonly<Record<string, string>>): CommandFiles {
  const lines = new Set<string>();
  const paths = new Set<string>();
  const visit = (line: string) => {
    if (lines.has(line)) return;
    lines.add(line);
    const words = line.split(/[\s"';&|()]+/);
    const runs = words.some((word) => runner.test(word));
    for (const word of words) {
      paths.add(word.replace(/^--?[\w-]+=/, '').replace(/^\.\//, ''));
      const script = runs && Object.hasOwn(scripts, word) ? scripts[word] : undefined;
      if (script !== undefined) visit(script);
    }
  };
  visit(command);
  return {
    lines: [...lines],
    // The program of a package is no configuration.
    scripts: [...paths].filter((path) => scriptLanguage(path) !== undefined && !isInPackages(path)),
    shell: [...paths].filter((path) => /\.(sh|bash|zsh)$/.test(path)),
  };
}

/** The mode that a build's command names, with which tools choose their env files: `--mode staging`. */
export function modeIn(lines: readonly string[]): string | undefined {
  const found = lines.flatMap((line) => /\s(?:--mode|-m)[=\s]+([\w-]+)/.exec(line)?.[1] ?? []);
  return found[0];
}

/**
 * The variables of the environment that a shell script reads (POSIX, parameter expansion), each with the offset of the first read.
 * Names that it sets itself before are its own.
 */
export function shellReads(text: string): Map<string, number> {
  const found = new Map<string, number>();
  const own = new Set<string>();
  // Nothing is expanded in single quotes.
  const plain = text.replace(/'[^'\n]*'|(^|\s)#.*$/gm, (skipped) => ' '.repeat(skipped.length));
  for (const { 1: set, 2: read, index } of plain.matchAll(
    /(?:^|[\s;&|(])(?:export\s+|local\s+)?([A-Za-z_]\w*)=|\$\{?([A-Za-z_]\w*)/gm,
  )) {
    if (set !== undefined) own.add(set);
    if (read !== undefined && !own.has(read) && !found.has(read)) found.set(read, index);
  }
  return found;
}
