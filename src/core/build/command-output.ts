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
  const own = options && lines.flatMap((line) => line.split(/&&|\|\||[;|]/)).find((one) => options.program.test(one));
  if (!options || own === undefined) return {};
  const words = own.trim().split(/[\s"']+/);
  const wordAfter = (names: readonly string[] = []) => {
    for (const [index, word] of words.entries())
      for (const name of names) {
        if (word === name) return words[index + 1];
        if (word.startsWith(`${name}=`)) return word.slice(name.length + 1);
      }
    return undefined;
  };
  const [folder, file, platform] = [wordAfter(options.folder), wordAfter(options.file), wordAfter(options.platform)];
  const path = folder ?? (file === undefined ? undefined : folderOfFile(file));
  const isPlain = path !== undefined && /^[\w@./-]+$/.test(path);
  return {
    ...(isPlain && { output: posix.normalize(path).replace(/\/$/, '') }),
    ...(isNodePlatform(platform) && { isNode: true }),
  };
}
