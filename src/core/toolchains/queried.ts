import { within } from '../files/within.js';
import type { Pass } from './settings.js';
import type { Toolchain } from './toolchain.js';

/** Source texts by their paths. */
type Texts = ReadonlyMap<string, { text: string }>;

/**
 * The values of a configuration that reach code: a framework may give its settings only where a query of the code names them.
 * @param code directories of the bundle
 */
export function askedPasses(
  { queried }: Toolchain,
  passes: readonly Pass[],
  texts: Texts,
  code: readonly string[],
): Pass[] {
  const inCode = within(code);
  return passes.filter(({ read }) => {
    const words = read.split('.');
    if (queried === undefined || words[0] !== queried) return true;
    const names = words.map((word) => new RegExp(`\\b${word.replaceAll(/\W/g, '.')}\\b`));
    return [...texts].some(([path, { text }]) => inCode(path) && names.every((name) => name.test(text)));
  });
}
