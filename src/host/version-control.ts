import { existsSync, realpathSync } from 'node:fs';
import { basename, dirname, join, sep } from 'node:path';
import { Failure } from '../core/findings/failure.js';
import { echoed } from '../core/text/nearest.js';
import { withSlashes } from './files.js';
import { Git, GitProblem } from './git.js';
import { STATE_FOLDER } from './state-folder.js';

/** The state of a file in version control. `free`: no repository could hold it. */
export type Tracking = 'tracked' | 'would-be-tracked' | 'ignored' | 'free';

/**
 * Asks git itself: its ignore rules come from many places, and no reading of files knows them all.
 * @param path absolute; it need not exist, and symlinks are followed
 * @throws GitProblem
 */
export function trackingOf(path: string): Tracking {
  const real = realPathOf(path);
  let directory = dirname(real);
  while (!existsSync(directory)) directory = dirname(directory);
  const repository = Repository.at(directory);
  if (!repository) return 'free';
  const name = withSlashes(real.slice(directory.length).replace(/^[\\/]/, ''), { sep });
  if (repository.tracked([name]).length > 0) return 'tracked';
  return repository.ignoredAmong([name]).has(name) ? 'ignored' : 'would-be-tracked';
}

/** With the symlinks of what exists followed. */
function realPathOf(path: string): string {
  if (existsSync(path) || path === dirname(path)) return realpathSync(path);
  return join(realPathOf(dirname(path)), basename(path));
}

/**
 * The top of the work tree that a directory is in: the nearest one with `.git`, as a directory or a file
 * (gitrepository-layout).
 * @param directory with all symlinks followed, as git knows it
 */
function topAbove(directory: string): string | undefined {
  if (existsSync(join(directory, '.git'))) return directory;
  const parent = dirname(directory);
  return parent === directory ? undefined : topAbove(parent);
}

/** A commit that touched a file. */
export interface Touch {
  path: string;
  id: string;
  day: string;
}

/** A version of a file that was ever committed. */
export interface Blob {
  id: string;
  path: string;
}

/** The history of a repository. */
export interface History {
  /** Every blob of every branch below the directory, with a path from there that it had, the newest first. */
  blobs: Blob[];
  /** Older commits were not fetched. */
  isShallow: boolean;
  /** How many objects a partial clone did not fetch. Their paths are unknown. */
  absent: number;
}

const names = (stdout: string) => stdout.split('\0').filter(Boolean);
const lines = (stdout: string) => stdout.split('\n').filter(Boolean);

/** A git repository, seen from a directory of its work tree. All paths are relative to that directory, with `/`. */
export class Repository {
  readonly #git: Git;

  private constructor(
    /** With all symlinks followed. */
    readonly directory: string,
    /** The top of the work tree; undefined if the environment says where the repository is. */
    readonly top: string | undefined,
  ) {
    this.#git = new Git(directory, top !== undefined);
  }

  /** The repository of a directory; undefined without one. To look for it takes less time than to start git. */
  static at(directory: string): Repository | undefined {
    if (!existsSync(directory)) return undefined;
    const real = realpathSync(directory);
    const top = topAbove(real);
    return top === undefined && process.env.GIT_DIR === undefined ? undefined : new Repository(real, top);
  }

  /** Tracked files: all below the directory, or those among the given paths. @throws GitProblem */
  tracked(among?: readonly string[]): string[] {
    if (!among) return names(this.#git.ask(['ls-files', '-z']));
    const paths = among.filter((path) => this.#mayHold(path));
    return paths.length === 0 ? [] : names(this.#git.ask(['--literal-pathspecs', 'ls-files', '-z', '--', ...paths]));
  }

  /** Files that are there, tracked or not, but not those that are ignored. @throws GitProblem */
  visible(): string[] {
    return names(this.#git.ask(['ls-files', '-z', '--cached', '--others', '--exclude-standard']));
  }

  /**
   * The given paths that `git add` passes over: they match an ignore rule, or this repository cannot hold them, because
   * they are outside, beyond a symlink, or in a repository of their own. They need not exist.
   * @throws GitProblem
   */
  ignoredAmong(paths: readonly string[]): Set<string> {
    const asked = new Set(paths.filter((path) => this.#mayHold(path)));
    return new Set([...paths.filter((path) => !asked.has(path)), ...this.#ignored([...asked])]);
  }

  /** Git refuses a whole list for one path that it cannot hold, such as one in a submodule: then each half is asked for. */
  #ignored(paths: readonly string[]): string[] {
    if (paths.length === 0) return [];
    try {
      // Exit code 1: none.
      return names(this.#git.ask(['check-ignore', '-z', '--stdin'], { input: paths.join('\0'), fine: [0, 1] }));
    } catch (error) {
      if (!(error instanceof GitProblem)) throw error;
      // Fails too if git reads nothing here. Otherwise it refused a path.
      this.#git.ask(['ls-files', '--', '.git']);
      if (paths.length === 1) return [...paths];
      const half = paths.length >> 1;
      return [...this.#ignored(paths.slice(0, half)), ...this.#ignored(paths.slice(half))];
    }
  }

  /** Tells whether a path is in this work tree: neither outside nor beyond a symlink, and not in a repository inside. */
  #mayHold(path: string): boolean {
    if (this.top === undefined) return true;
    const folder = dirname(join(this.directory, path));
    return realPathOf(folder) === folder && topAbove(folder) === this.top;
  }

  /**
   * Files that differ from a revision, and those that version control does not know yet.
   * @throws Failure if the revision does not exist
   */
  changedSince(revision: string): Set<string> {
    const untracked = this.#git.ask(['ls-files', '--others', '--exclude-standard', '-z']);
    try {
      const changed = this.#git.ask([
        'diff',
        ...['--no-ext-diff', '--no-textconv', '--ignore-submodules=all'],
        ...['--name-only', '--relative', '-z', '--end-of-options', revision, '--', '.'],
      ]);
      return new Set(names(changed + untracked));
    } catch {
      const shown = echoed(revision, []);
      throw new Failure(
        `git does not know the revision${shown === undefined ? '' : ` ${shown}`}`,
        'use a commit, branch or tag of this repository; a shallow clone must fetch it first',
      );
    }
  }

  /** The commit that is checked out, and whether files below the directory differ from it; undefined before the first commit. */
  revision(): { id: string; dirty: boolean } | undefined {
    try {
      const id = this.#git.ask(['rev-parse', 'HEAD']).trim();
      return { id, dirty: this.#isDirty() };
    } catch {
      return undefined;
    }
  }

  #isDirty(): boolean {
    try {
      // A build adds to the history of values, which is no change of what it builds.
      const where = ['--', '.', `:(exclude)${STATE_FOLDER}`];
      return this.#git.ask(['status', '--porcelain', '-z', '--ignore-submodules=all', ...where]) !== '';
    } catch {
      return true;
    }
  }

  /** Every time a commit of any branch touched files of these patterns, the newest first. @throws GitProblem */
  touchesOf(patterns: readonly string[]): Touch[] {
    const format = ['--relative', '--format=%x00%h %cs', '--name-only'];
    const stdout = this.#git.ask(['log', '--all', '--no-renames', ...format, '--', ...patterns]);
    return stdout.split('\0').flatMap((commit) => {
      const [head = '', ...paths] = lines(commit);
      const [id = '', day = ''] = head.split(' ');
      return paths.map((path) => ({ path, id, day }));
    });
  }

  /** @throws GitProblem */
  history(): History {
    const stdout = this.#git.ask(['rev-list', '--objects', '--all', '--missing=print', '--', '.']);
    // Here, unlike elsewhere, git tells paths from the top of the repository.
    const [prefix = '', shallow] = this.#git
      .ask(['rev-parse', '--show-prefix', '--is-shallow-repository'])
      .split(/\r?\n/);
    const all = lines(stdout);
    const blobs = all.flatMap((line) => {
      const at = line.indexOf(' ');
      const path = line.slice(at + 1);
      const isInside = at > 0 && path.length > prefix.length && path.startsWith(prefix);
      return isInside ? [{ id: line.slice(0, at), path: path.slice(prefix.length) }] : [];
    });
    return { blobs, isShallow: shallow === 'true', absent: all.filter((line) => line.startsWith('?')).length };
  }

  /** Sizes of objects, in bytes; 0 for anything but a blob. @throws GitProblem */
  sizesOf(ids: readonly string[]): number[] {
    if (ids.length === 0) return [];
    const args = ['cat-file', '--batch-check=%(objecttype) %(objectsize)', '--buffer'];
    return lines(this.#git.ask(args, { input: `${ids.join('\n')}\n` })).map((line) =>
      line.startsWith('blob ') ? Number(line.slice('blob '.length)) : 0,
    );
  }

  /**
   * The contents of blobs, one after the other.
   * @param onBlob gets the bytes; they are valid only during the call
   * @throws GitProblem if git ends before the last one
   */
  async readBlobs(ids: readonly string[], onBlob: (index: number, bytes: Uint8Array) => void): Promise<void> {
    const child = this.#git.start(['cat-file', '--batch', '--buffer']);
    for (const one of [child, child.stdin]) one.on('error', () => undefined);
    child.stdin.end(`${ids.join('\n')}\n`);
    let rest: Buffer = Buffer.alloc(0);
    let index = 0;
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      rest = rest.length === 0 ? chunk : Buffer.concat([rest, chunk]);
      for (;;) {
        const feed = rest.indexOf(0x0a);
        if (feed < 0) break;
        const [, type, size] = rest.subarray(0, feed).toString('latin1').split(' ');
        const length = type === 'missing' || size === undefined ? -1 : Number(size);
        if (rest.length < feed + 2 + length) break;
        if (type === 'blob') onBlob(index, rest.subarray(feed + 1, feed + 1 + length));
        rest = rest.subarray(feed + 2 + length);
        index++;
      }
    }
    if (index < ids.length)
      throw new GitProblem('could not be read to the end', 'run `git fsck` in it to see what is damaged');
  }

  /** The commits of any branch that added or removed a blob, newest first. @throws GitProblem */
  commitsWith(id: string): { id: string; day: string }[] {
    return lines(this.#git.ask(['log', '--all', `--find-object=${id}`, '--format=%h %cs'])).map((line) => {
      const [commit = '', day = ''] = line.split(' ');
      return { id: commit, day };
    });
  }
}
