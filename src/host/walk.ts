import type { Dirent, Stats } from 'node:fs';
import { skippedDirectories } from '../core/files/directories.js';
import {
  describeFileError,
  describeListedError,
  type FileState,
  type Files,
  isMissing,
  kindOf,
  withSlashes,
} from './files.js';

/** Something below a path that was not read, and why, as a phrase that follows its name. */
export interface NotRead {
  path: string;
  because: string;
}

/** A regular file as the walk saw it. */
export interface FoundFile extends FileState {
  /** Absolute. */
  path: string;
}

export interface FoundFiles {
  /** By their paths, each once. */
  files: FoundFile[];
  /** A path that should be read and cannot be. */
  unread: NotRead[];
  /** Pipes, sockets and devices, which are never opened, and symlinks whose target is read in its own place. */
  skipped: NotRead[];
}

/**
 * All regular files below some paths, hidden ones included. A symlink inside a root is read once, at its target; one that
 * leads outside is unread.
 * @param paths absolute paths of files or directories
 * @param withPackages whether to include installed packages and repositories
 */
export function findFiles(files: Files, paths: readonly string[], withPackages = false): FoundFiles {
  const found: FoundFiles = { files: [], unread: [], skipped: [] };
  for (const path of paths) {
    try {
      const stats = files.stat(path);
      if (!stats) found.unread.push({ path, because: 'does not exist' });
      else if (stats.isDirectory()) new Walk(files, files.fs.realpathSync(path), withPackages, found).root(path);
      else if (stats.isFile()) found.files.push(fileOf(path, stats));
      else found.unread.push({ path, because: kindOf(stats) });
    } catch (error) {
      found.unread.push({ path, because: describeFileError(error) });
    }
  }
  found.files.sort(byPath);
  if (paths.length > 1) found.files = found.files.filter(({ path }, index, all) => path !== all[index - 1]?.path);
  return found;
}

function fileOf(path: string, { size, ctimeMs }: Stats): FoundFile {
  return { path, bytes: size, version: ctimeMs };
}

function byPath({ path: a }: FoundFile, { path: b }: FoundFile): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** The paths of {@link findFiles}. */
export function pathsBelow(files: Files, paths: readonly string[]): string[] {
  return findFiles(files, paths).files.map(({ path }) => path);
}

class Walk {
  constructor(
    readonly files: Files,
    /** With all symlinks followed. */
    readonly realRoot: string,
    readonly withPackages: boolean,
    readonly found: FoundFiles,
  ) {}

  /** Files below the present root. */
  #files = 0;

  root(path: string): void {
    const { unread, skipped } = this.found;
    const [unreadBefore, skippedBefore] = [unread.length, skipped.length];
    this.#files = 0;
    if (this.#directory(path) === 0) unread.push({ path, because: 'is empty' });
    else if (this.#files === 0 && unread.length === unreadBefore)
      unread.push({
        path,
        because: skipped.length > skippedBefore ? 'contains only skipped files' : 'contains no files',
      });
  }

  /** @returns the number of entries; NaN if it cannot be read */
  #directory(path: string): number {
    let names: string[];
    try {
      names = this.files.fs.readdirSync(path);
    } catch (error) {
      this.found.unread.push({ path, because: describeListedError(error) });
      return Number.NaN;
    }
    const { sep } = this.files.path;
    // Faster than `join`, which normalizes the whole path.
    const folder = path.endsWith(sep) ? path : path + sep;
    for (const name of names.sort()) this.#visit(folder + name, name);
    return names.length;
  }

  #visit(path: string, name: string): void {
    const { files, skipped, unread } = this.found;
    try {
      const stats = this.files.fs.lstatSync(path);
      if (stats.isFile()) {
        files.push(fileOf(path, stats));
        this.#files++;
      } else if (stats.isDirectory()) {
        const { option, because } = skippedDirectories[name] ?? {};
        const isSkipped = option !== undefined && !this.withPackages;
        if (isSkipped) skipped.push({ path, because: `${because}; --${option} includes it` });
        else this.#directory(path);
      } else if (stats.isSymbolicLink()) this.#link(path);
      else skipped.push({ path, because: kindOf(stats) });
    } catch (error) {
      unread.push({ path, because: describeListedError(error) });
    }
  }

  #link(path: string): void {
    if (!this.files.stat(path)) this.found.skipped.push({ path, because: 'is a symlink to nothing' });
    else if (!this.files.isBelow(this.files.fs.realpathSync(path), this.realRoot))
      this.found.unread.push({ path, because: 'is a symlink that leads outside the directory' });
  }
}

export interface WalkHow {
  onUnread?: (one: NotRead) => void;
  /** True if symlinks to files count as files. One in the same directory tree is then listed twice. */
  withLinks?: boolean;
}

/**
 * Files below a directory by name, as paths relative to it, with `/`. Symlinks to directories are not followed, and
 * installed packages and repositories are skipped. A directory that another process removes meanwhile contains nothing.
 * @param isSkipped gets paths relative to the directory, of files and directories
 */
export function filesNamed(
  files: Files,
  directory: string,
  isNamed: (name: string) => boolean,
  isSkipped: (path: string) => boolean,
  { onUnread = () => undefined, withLinks = true }: WalkHow = {},
): string[] {
  const visit = (below: string): string[] => {
    const path = files.path.join(directory, below);
    let entries: Dirent[];
    try {
      entries = files.fs.readdirSync(path, { withFileTypes: true });
    } catch (error) {
      if (below === '' || !isMissing(error)) onUnread({ path, because: describeFileError(error) });
      return [];
    }
    return entries.flatMap((entry) => named(entry, below));
  };
  const named = (entry: Dirent, below: string): string[] => {
    const path = below === '' ? entry.name : `${below}/${entry.name}`;
    if (isSkipped(path)) return [];
    if (entry.isDirectory()) return skippedDirectories[entry.name]?.option ? [] : visit(path);
    if (!isNamed(entry.name)) return [];
    const isLinked = () => withLinks && entry.isSymbolicLink() && isFile(files, files.path.join(directory, path));
    return entry.isFile() || isLinked() ? [path] : [];
  };
  return visit('');
}

function isFile(files: Files, path: string): boolean {
  try {
    return files.stat(path)?.isFile() === true;
  } catch {
    return false;
  }
}

/**
 * A path of a command line as globs are written. Shells of Windows leave globs to the program, and its paths after `\\\\?\\` have
 * backslashes alone.
 */
export function givenPath(path: string, platform: Files['path']): string {
  if (platform.sep === '/') return path;
  const usual = path.replace(/^\\\\\?\\(?:UNC(?=\\)|(?=[A-Za-z]:))/, (device) => (device.endsWith('UNC') ? '\\' : ''));
  return withSlashes(usual, platform);
}

/** Absolute paths of files and directories, and what globs match now. A glob without matches stays, to be reported as missing. */
export async function expandPaths(files: Files, paths: readonly string[], root: string): Promise<string[]> {
  const expanded: string[] = [];
  for (const path of paths) {
    const isGlob = /[*?[\]{}()!+@]/.test(path) && !files.exists(files.path.resolve(root, path));
    const options = { cwd: root, absolute: true, dot: true, onlyFiles: false, expandDirectories: false };
    const matches = isGlob ? await (await import('tinyglobby')).glob(path, options) : [];
    const found = matches.length > 0 ? matches : [path];
    expanded.push(...found.map((one) => files.path.resolve(root, one)));
  }
  return expanded;
}
