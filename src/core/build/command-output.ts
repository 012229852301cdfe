import { posix } from 'node:path';
import { folderOfFile, isNodePlatform } from '../toolchains/settings.js';
import type { Toolchain } from '../toolchains/toolchain.js';

/** Settings of a build that its command line has. */
export interface CommandSettings {
  /** The directory that it writes to, or the only file; relative to the package. */
  output?: string;
  /** True if it builds for Node.js. */
  isNode?: true;
}

/** Settings in the options of a tool's program, which win over its configuration. @param lines that the build runs */
export function commandSettings({ options }: Toolchain, lines: readonly string[]): CommandSettings {
  const words = options && wordsOfProgram(lines, options.program);
  if (!options || !words) return {};
  const wordAfter = (names: readonly string[] | undefined) => optionIn(words, names);
  const [folder, file, platform] = [wordAfter(options.folder), wordAfter(options.file), wordAfter(options.platform)];
  const path = folder ?? (file === undefined ? undefined : folderOfFile(file));
  const isPlain = path !== undefined && /^[\w@./-]+$/.test(path);
  return {
    ...(isPlain && { output: posix.normalize(path).replace(/\/$/, '') }),
    ...(isNodePlatform(platform) && { isNode: true }),
  };
}

/** The words of the first command of a program. @param lines of a shell, with several commands each */
export function wordsOfProgram(lines: readonly string[], program: RegExp): string[] | undefined {
  const own = lines.flatMap((line) => line.split(/&&|\|\||[;|]/)).find((one) => program.test(one));
  return own?.trim().split(/[\s"']+/);
}

/** The word of an option: the one after its name, or after `=`. */
export function optionIn(words: readonly string[], names: readonly string[] = []): string | undefined {
  for (const [index, word] of words.entries())
    for (const name of names) {
      // Quotes around a value part it from its option.
      if (word === name || word === `${name}=`) return words[index + 1];
      if (word.startsWith(`${name}=`)) return word.slice(name.length + 1);
    }
  return undefined;
}
