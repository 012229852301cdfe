import { type Dirent, lstatSync, readdirSync, realpathSync } from 'node:fs';
import { join } from 'node:path';
import { skippedDirectories } from '../core/files/directories.js';
import { describeFileError, kindOf, statOf } from './files.js';
import { isBelow } from './paths.js';

/** A thing below a path that was not read, and why, as a phrase behind its name. */
export interface NotRead {
  path: string;
  because: string;
}

export interface FoundFiles {
  /** Absolute paths of regular files, sorted. */
  files: string[];
  /** Bytes of each, as the walk saw it. */
  sizes: Map<string, number>;
  /** What would have to be read and can't be. */
  unread: NotRead[];
  /** Pipes, sockets and devices, which are never opened, and links to what is read at its own place. */
  passedOver: NotRead[];
}

/**
 * All regular files below some paths, hidden ones too. A link inside a root is read once, at its target; one that leads
 * out of it is unread.
 * @param paths absolute paths of files or folders
 * @param withPackages whether folders of packages and repositories in them are gone into
 */
export function findFiles(paths: readonly string[], withPackages = false): FoundFiles {
  const found: FoundFiles = { files: [], sizes: new Map(), unread: [], passedOver: [] };
  for (const path of paths) {
    try {
      const stats = statOf(path);
      if (!stats) found.unread.push({ path, because: 'does not exist' });
      else if (stats.isDirectory()) walk(path, { root: realpathSync(path), withPackages }, found, true);
      else if (stats.isFile()) found.sizes.set(path, stats.size);
      else found.unread.push({ path, because: kindOf(stats) });
    } catch (error) {
      found.unread.push({ path, because: describeFileError(error) });
    }
  }
  found.files = [...found.sizes.keys()].sort();
  return found;
}

interface Within {
  root: string;
  withPackages: boolean;
}

function walk(folder: string, within: Within, found: FoundFiles, isRoot = false): void {
  let names: string[];
  try {
    names = readdirSync(folder);
  } catch (error) {
    found.unread.push({ path: folder, because: describeFileError(error) });
    return;
  }
  if (isRoot && names.length === 0) found.unread.push({ path: folder, because: 'is empty' });
  for (const name of names.sort()) visit(join(folder, name), name, within, found);
}

function visit(path: string, name: string, within: Within, found: FoundFiles): void {
  try {
    const stats = lstatSync(path);
    const { option, because } = skippedDirectories[name] ?? {};
    const isSkipped = option !== undefined && !within.withPackages;
    if (stats.isDirectory() && isSkipped)
      found.passedOver.push({ path, because: `${because}; --${option} includes it` });
    else if (stats.isDirectory()) walk(path, within, found);
    else if (stats.isFile()) found.sizes.set(path, stats.size);
    else if (stats.isSymbolicLink()) visitLink(path, within.root, found);
    else found.passedOver.push({ path, because: kindOf(stats) });
  } catch (error) {
    found.unread.push({ path, because: describeFileError(error) });
  }
}

function visitLink(path: string, root: string, found: FoundFiles): void {
  if (!statOf(path)) {
    found.passedOver.push({ path, because: 'is a link to nothing' });
    return;
  }
  if (!isBelow(realpathSync(path), root))
    found.unread.push({ path, because: 'is a link that leads out of the folder' });
}

/**
 * The files below a folder of which the name fits, by their paths from there, with `/`. Links are not followed, nor folders of packages
 * and repositories gone into.
 */
export function filesNamed(
  folder: string,
  fits: (name: string) => boolean,
  isPassedOver: (path: string) => boolean,
  onUnread: (one: NotRead) => void = () => undefined,
): string[] {
  const visit = (below: string): string[] =>
    entriesOf(join(folder, below), onUnread).flatMap((entry) => {
      const path = below === '' ? entry.name : `${below}/${entry.name}`;
      if (isPassedOver(path)) return [];
      if (entry.isDirectory())
        return entry.name in skippedDirectories && skippedDirectories[entry.name]?.option ? [] : visit(path);
      return entry.isFile() && fits(entry.name) ? [path] : [];
    });
  return visit('');
}

function entriesOf(folder: string, onUnread: (one: NotRead) => void): Dirent[] {
  try {
    return readdirSync(folder, { withFileTypes: true });
  } catch (error) {
    onUnread({ path: folder, because: describeFileError(error) });
    return [];
  }
}

/** Folders and files as they are; globs as what they match now. A glob that matches nothing stays as it is, to be told as missing. */
export async function expandPaths(paths: readonly string[], root: string): Promise<string[]> {
  const expanded: string[] = [];
  for (const path of paths) {
    const isGlob = /[*?[\]{}()!+@]/.test(path) && !statOf(join(root, path));
    const matches = isGlob
      ? await (await import('tinyglobby')).glob(path, {
          cwd: root,
          absolute: true,
          dot: true,
          onlyFiles: false,
          expandDirectories: false,
        })
      : [];
    expanded.push(...(matches.length > 0 ? matches : [join(root, path)]));
  }
  return expanded;
}
