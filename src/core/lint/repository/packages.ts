import { limits } from '../../limits/index.js';
import { readsIn } from '../../reads/index.js';
import type { SourceText } from '../model.js';
import type { PackageFile } from './dependencies.js';

/** Access to packages for following imports. Paths are absolute, with `/`. */
export interface PackageModules {
  resolve(from: string, specifier: string): string | undefined;
  /** The text of a script, or undefined for any other file. */
  text(path: string): string | undefined;
}

/**
 * The files of installed packages that source files load, followed through the packages' own imports up to a limit.
 * @returns `isCut` if the limit was reached
 * @param entries source files with their absolute paths
 */
export function packageFiles(
  entries: readonly { path: string; file: Pick<SourceText, 'imports'> }[],
  modules: PackageModules,
): { files: PackageFile[]; isCut: boolean } {
  const seen = new Map<string, PackageFile>();
  const queue: string[] = [];
  let isCut = false;
  const follow = (from: string, specifiers: readonly string[]) => {
    for (const specifier of specifiers) {
      const path = modules.resolve(from, specifier);
      if (path === undefined || seen.has(path)) continue;
      const name = packageOf(path);
      const text = name === undefined ? undefined : modules.text(path);
      if (name === undefined || text === undefined) continue;
      if (seen.size >= limits.packageFiles.value) {
        isCut = true;
        return;
      }
      seen.set(path, { package: name, text });
      queue.push(path);
    }
  };
  for (const { path, file } of entries) follow(path, specifiersOf(file).filter(isBare));
  for (let path = queue.shift(); path !== undefined; path = queue.shift())
    follow(path, specifiersOf(readsIn(path, (seen.get(path) as PackageFile).text, [])));
  return { files: [...seen.values()], isCut };
}

function specifiersOf({ imports }: Pick<SourceText, 'imports'>): string[] {
  return imports.map(({ specifier }) => specifier);
}

/** A package by name, not a relative or absolute path. */
function isBare(specifier: string): boolean {
  return /^[@a-z]/i.test(specifier);
}

/** The package that a file belongs to; undefined if it is not an installed one. */
function packageOf(path: string): string | undefined {
  const at = path.lastIndexOf('/node_modules/');
  if (at < 0) return undefined;
  const [first = '', second = ''] = path.slice(at + '/node_modules/'.length).split('/');
  return first.startsWith('@') ? `${first}/${second}` : first;
}
