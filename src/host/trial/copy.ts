import {
  type BigIntStats,
  constants,
  copyFileSync,
  cpSync,
  existsSync,
  linkSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  realpathSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, isAbsolute, join, relative } from 'node:path';
import { Git } from '../git.js';

/** A copy of a project, in which a build may do anything. */
export interface ProjectCopy {
  /** The directory of the copy that stands for the contract's, absolute. */
  root: string;
  /** The directory of the copy that stands for all that was copied, absolute. */
  top: string;
  /** The file that the observer writes. */
  observed: string;
  /** Writes a file that was left out. @param path relative to `top` */
  write(path: string, bytes: string | Uint8Array): void;
  remove(): void;
}

/** The parts of a project that a copy does not have. Both get absolute paths. */
export interface LeftOut {
  folder(path: string): boolean;
  /** A file, or a symlink in the place of one. */
  file(path: string): boolean;
}

/** The beginning of the names of directories that trials make. */
const PREFIX = 'adder-trial-';

/** Directories below installed packages whose files tools change in place. They are copied. */
const changedInPlace = /^(\.cache|\.vite|\.vite-temp|\.prisma|\.astro)$/;

/**
 * Copies a project into a temporary directory: all files but outputs, caches and repositories. Installed packages are copied on
 * write where the file system can, or else hard-linked, file by file.
 * @param root the contract's directory
 * @param top the directory that is copied: the repository's, or the root
 */
export function copyProject(root: string, top: string, leftOut: LeftOut): ProjectCopy {
  removeLeftovers();
  const parent = mkdtempSync(join(realpathSync(tmpdir()), `${PREFIX}${process.pid}-`));
  const target = join(parent, basename(top));
  const copy = new Copy(top, target, leftOut);
  copy.folder(top, target);
  if (!copy.packages) linkPackagesAbove(dirname(top), parent);
  shareHistory(top, target);
  return {
    root: join(target, relative(top, root)),
    top: target,
    observed: join(parent, 'asked.jsonl'),
    write: (path, bytes) => {
      mkdirSync(dirname(join(target, path)), { recursive: true });
      // A new file, never one that a symlink leads to.
      writeFileSync(join(target, path), bytes, { mode: 0o600, flag: 'wx' });
    },
    remove: () => rmSync(parent, { recursive: true, force: true }),
  };
}

/** The project in the place of a copy, for builds that cannot be copied. No file of it is written. */
export function inPlace(root: string, top: string): ProjectCopy {
  removeLeftovers();
  const parent = mkdtempSync(join(realpathSync(tmpdir()), `${PREFIX}${process.pid}-`));
  const observed = join(parent, 'asked.jsonl');
  const write = () => undefined;
  return { root, top, observed, write, remove: () => rmSync(parent, { recursive: true, force: true }) };
}

/** Removes what a trial that was killed left. */
export function removeLeftovers(): void {
  for (const name of readdirSync(tmpdir())) {
    const [, pid] = new RegExp(`^${PREFIX}(\\d+)-`).exec(name) ?? [];
    if (pid !== undefined && !isRunning(Number(pid))) rmSync(join(tmpdir(), name), { recursive: true, force: true });
  }
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** A project below another one finds packages above it. */
function linkPackagesAbove(folder: string, parent: string): void {
  const packages = join(folder, 'node_modules');
  if (lstatSync(packages, { throwIfNoEntry: false })?.isDirectory())
    symlinkSync(packages, join(parent, 'node_modules'));
  else if (dirname(folder) !== folder) linkPackagesAbove(dirname(folder), parent);
}

/**
 * A repository that shares the objects of the real one (gitrepository-layout, `objects/info/alternates`), for builds that ask git.
 * Nothing is written to that one, and its settings, which may have a password in an address, are not copied.
 */
function shareHistory(top: string, target: string): void {
  if (!lstatSync(join(top, '.git'), { throwIfNoEntry: false })) return;
  const git = new Git(top, true);
  const [own = '', common = '', format = ''] = git
    .ask(['rev-parse', '--path-format=absolute', '--git-dir', '--git-common-dir', '--show-object-format'])
    .split('\n');
  const into = join(target, '.git');
  mkdirSync(join(into, 'objects', 'info'), { recursive: true });
  writeFileSync(join(into, 'objects', 'info', 'alternates'), `${join(common, 'objects')}\n`);
  const settings = `[core]\n\trepositoryformatversion = 1\n[extensions]\n\tobjectformat = ${format}\n`;
  writeFileSync(join(into, 'config'), settings);
  cpSync(join(common, 'refs'), join(into, 'refs'), { recursive: true });
  const files = [join(own, 'HEAD'), join(own, 'index'), join(common, 'packed-refs'), join(common, 'shallow')];
  for (const file of files) if (existsSync(file)) copyFileSync(file, join(into, basename(file)));
}

class Copy {
  /** How installed packages are shared; absent until there are some. */
  packages: 'copied on write' | 'linked' | undefined;
  readonly #device: bigint;

  constructor(
    readonly top: string,
    readonly target: string,
    readonly leftOut: LeftOut,
  ) {
    this.#device = deviceOf(dirname(target));
  }

  folder(from: string, to: string): void {
    mkdirSync(to, { recursive: true });
    for (const entry of readdirSync(from, { withFileTypes: true })) {
      const [source, target] = [join(from, entry.name), join(to, entry.name)];
      if (entry.name === 'node_modules' && entry.isDirectory()) this.#packages(source, target);
      else if (entry.isDirectory()) {
        if (entry.name !== '.git' && !this.leftOut.folder(source)) this.folder(source, target);
      } else if (this.leftOut.file(source)) continue;
      else if (entry.isSymbolicLink()) this.#link(source, target);
      else if (entry.isFile()) copyFile(source, target);
    }
  }

  #packages(from: string, to: string): void {
    this.packages ??= this.#canClone(from) ? 'copied on write' : 'linked';
    if (this.packages === 'linked' && deviceOf(from) !== this.#device) {
      symlinkSync(from, to);
      return;
    }
    this.#shared(from, to);
  }

  #shared(from: string, to: string): void {
    mkdirSync(to, { recursive: true });
    for (const entry of readdirSync(from, { withFileTypes: true })) {
      const [source, target] = [join(from, entry.name), join(to, entry.name)];
      if (entry.isSymbolicLink()) this.#link(source, target);
      else if (entry.isDirectory()) {
        if (changedInPlace.test(entry.name)) this.folder(source, target);
        else this.#shared(source, target);
      } else if (entry.isFile()) {
        if (this.packages === 'copied on write') copyFileSync(source, target, constants.COPYFILE_FICLONE);
        else linkSync(source, target);
      }
    }
  }

  /** A link to a part of the project leads into the copy. */
  #link(source: string, target: string): void {
    const leads = readlinkSync(source);
    const inside = relative(this.top, leads);
    const isInside = isAbsolute(leads) && !inside.startsWith('..') && !isAbsolute(inside);
    symlinkSync(isInside ? join(this.target, inside) : leads, target);
  }

  #canClone(folder: string): boolean {
    const probe = join(dirname(this.target), 'clone');
    const file = readdirSync(folder, { withFileTypes: true }).find((entry) => entry.isFile());
    if (!file) return false;
    try {
      copyFileSync(join(folder, file.name), probe, constants.COPYFILE_FICLONE_FORCE);
      rmSync(probe);
      return true;
    } catch {
      return false;
    }
  }
}

/** Larger files are copied by the file system, which may share their blocks. */
const MOST_WRITTEN = 2 ** 20;

/** A small file is written: ext4 allocates the blocks of a copied one at once, and then takes fifty times as long to remove it. */
function copyFile(source: string, target: string): void {
  const { size, mode } = statSync(source);
  if (size > MOST_WRITTEN) copyFileSync(source, target, constants.COPYFILE_FICLONE);
  else writeFileSync(target, readFileSync(source), { mode });
}

function deviceOf(path: string): bigint {
  return (statSync(path, { bigint: true }) as BigIntStats).dev;
}
