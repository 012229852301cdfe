import { realpathSync } from 'node:fs';
import { basename, isAbsolute, relative, sep } from 'node:path';

/** A path as reports show it: relative to the root, with `/`; as it is where it lies outside. */
export function shownPath(path: string, root: string): string {
  const inside = relative(root, path);
  if (inside === '') return basename(path);
  return (isBelow(path, root) ? inside : path).split(sep).join('/');
}

/** Whether a path lies in a folder when all symlinks are followed. */
export function isReallyBelow(path: string, folder: string): boolean {
  try {
    return isBelow(realpathSync(path), realpathSync(folder));
  } catch {
    return false;
  }
}

/** Whether a path lies in a folder, by name alone. */
export function isBelow(path: string, folder: string): boolean {
  const inside = relative(folder, path);
  return inside !== '..' && !inside.startsWith(`..${sep}`) && !isAbsolute(inside);
}
