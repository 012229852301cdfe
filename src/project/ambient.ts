import { parse } from 'jsonc-parser';
import { globMatcher } from '../core/files/glob.js';
import { joinWords } from '../core/text/nearest.js';
import type { Files } from '../host/files.js';

interface TsConfig {
  include?: unknown;
  files?: unknown;
  extends?: unknown;
}

/**
 * Why a declaration file has no effect, as a sentence: TypeScript reads only files that a configuration includes.
 * @param path absolute
 * @returns undefined if some configuration includes it, or if that cannot be told
 */
export function withoutEffect(files: Files, path: string, root: string): string | undefined {
  const { dirname, join, relative } = files.path;
  const tried: string[] = [];
  for (let folder = dirname(path); ; folder = dirname(folder)) {
    const names = files.namesIn(folder).filter((name) => /^tsconfig(\..+)?\.json$/.test(name));
    for (const name of names) {
      const config = (parse(files.readIfPossible(join(folder, name))?.toString() ?? '') ?? {}) as TsConfig;
      const isIncluded = includes(config, relative(folder, path).split(files.path.sep).join('/'));
      if (isIncluded !== false) return undefined;
      tried.push(files.shown(join(folder, name), root));
    }
    if (tried.length > 0) return `${joinWords(tried)} ${tried.length === 1 ? 'does' : 'do'} not include it`;
    if (folder === root || folder === dirname(folder)) return undefined;
  }
}

/** @returns undefined if another file decides */
function includes({ include, files, extends: base }: TsConfig, path: string): boolean | undefined {
  const listed = Array.isArray(files) && files.some((one) => String(one).replace(/^\.\//, '') === path);
  if (listed) return true;
  if (Array.isArray(include)) return globMatcher(include.flatMap((one) => withContents(String(one))))(path);
  if (Array.isArray(files)) return false;
  return base === undefined ? true : undefined;
}

/** TypeScript handbook, "include": a directory stands for everything below it. */
function withContents(pattern: string): string[] {
  const plain = pattern.replace(/^\.\//, '').replace(/\/$/, '');
  return [plain, `${plain}/**/*`];
}
