import { spawn, spawnSync } from 'node:child_process';
import { dirname } from 'node:path';
import { Failure } from '../core/findings/failure.js';
import { echoed } from '../core/text/nearest.js';

/** The state of a file in version control. `free`: there is no repository. */
export type Tracking = 'tracked' | 'would-be-tracked' | 'ignored' | 'free';

/** Asks git itself: its ignore rules come from many places, and no reading of files knows them all. */
export function trackingOf(path: string): Tracking {
  const cwd = dirname(path);
  const ask = (...args: string[]) =>
    spawnSync('git', [...harmless(cwd), ...args, '--', path], { cwd, stdio: 'ignore', env: gitEnvironment() });
  const known = ask('ls-files', '--error-unmatch');
  if (known.error || known.status === 128) return 'free';
  if (known.status === 0) return 'tracked';
  const ignored = ask('check-ignore', '--quiet');
  if (ignored.status === 0) return 'ignored';
  return ignored.status === 1 ? 'would-be-tracked' : 'free';
}

/**
 * Settings that stop git from running programs named in a repository's configuration: the author of a repository
 * must not run anything when it is only read: hooks, file system monitors, filters, signature checks.
 */
function harmless(root: string): string[] {
  return [
    ...withoutPrograms,
    ...filtersOf(root).flatMap((name) =>
      ['clean', 'smudge', 'process', 'required'].flatMap((key) => [
        '-c',
        `${name}.${key}=${key === 'required' ? 'false' : ''}`,
      ]),
    ),
  ];
}

const withoutPrograms: readonly string[] = [
  'core.fsmonitor=false',
  'core.hooksPath=/dev/null',
  'core.quotepath=off',
  'core.alternateRefsCommand=',
  'diff.external=',
  'log.showSignature=false',
  'gpg.program=false',
].flatMap((setting) => ['-c', setting]);

/** The filters that a repository's configuration has, as `filter.NAME`; asked for once. */
function filtersOf(root: string): readonly string[] {
  let filters = knownFilters.get(root);
  if (!filters) {
    const { stdout } = spawnSync('git', ['config', '--null', '--name-only', '--get-regexp', '^filter\\.'], {
      cwd: root,
      encoding: 'utf8',
      env: gitEnvironment(),
    });
    filters = [...new Set(names(stdout ?? '').map((key) => key.slice(0, key.lastIndexOf('.'))))];
    knownFilters.set(root, filters);
  }
  return filters;
}

const knownFilters = new Map<string, readonly string[]>();

/** The index is not locked, and objects missing in a partial clone are not fetched. */
function gitEnvironment(): NodeJS.ProcessEnv {
  return {
    ...process.env,
    GIT_OPTIONAL_LOCKS: '0',
    GIT_NO_LAZY_FETCH: '1',
    GIT_ALLOW_PROTOCOL: 'none',
    GIT_TERMINAL_PROMPT: '0',
  };
}

/** What git prints, as text; lists of names may be long. `failed` if git or a repository is missing, or if git refuses. */
function git(root: string, args: readonly string[], input?: string): { stdout: string; failed: boolean } {
  const { status, stdout, error } = spawnSync('git', [...harmless(root), ...args], {
    cwd: root,
    env: gitEnvironment(),
    encoding: 'utf8',
    maxBuffer: 1024 * 1024 * 1024,
    ...(input !== undefined && { input }),
  });
  const failed = error !== undefined || status !== 0;
  return { stdout: failed ? '' : stdout, failed };
}

const names = (stdout: string) => stdout.split('\0').filter(Boolean);
const lines = (stdout: string) => stdout.split('\n').filter(Boolean);

/**
 * Files that differ from a revision, and those that version control does not know yet.
 * @param root paths are relative to it
 * @throws Failure if the revision does not exist, or there is no repository
 */
export function changedSince(revision: string, root: string): Set<string> {
  const changed = git(root, [
    'diff',
    ...['--no-ext-diff', '--no-textconv', '--ignore-submodules=all'],
    ...['--name-only', '--relative', '-z', '--end-of-options', revision, '--', '.'],
  ]);
  if (changed.failed) {
    const shown = echoed(revision, []);
    throw new Failure(
      `git does not know the revision${shown === undefined ? '' : ` ${shown}`}`,
      'use a commit, branch or tag of this repository',
    );
  }
  const untracked = git(root, ['ls-files', '--others', '--exclude-standard', '-z']);
  return new Set(names(changed.stdout + untracked.stdout));
}

/** The commit that is checked out, and whether files below a directory differ from it; undefined without a repository. */
export function revisionOf(root: string): { id: string; dirty: boolean } | undefined {
  const { stdout, failed } = git(root, ['rev-parse', 'HEAD']);
  if (failed) return undefined;
  const status = git(root, ['status', '--porcelain', '-z', '--ignore-submodules=all', '--', '.']);
  return { id: stdout.trim(), dirty: status.failed || status.stdout !== '' };
}

/** Files that git lists; undefined if it cannot. */
function listed(root: string, ...options: string[]): string[] | undefined {
  const { stdout, failed } = git(root, ['ls-files', '-z', ...options]);
  return failed ? undefined : names(stdout);
}

/** Every tracked file, as paths relative to a directory; undefined without version control. */
export function trackedFiles(root: string): string[] | undefined {
  return listed(root);
}

/** Files that are there, as version control sees them: tracked, or not ignored. */
export function visibleFiles(root: string): string[] | undefined {
  return listed(root, '--cached', '--others', '--exclude-standard');
}

/** The given paths that version control ignores, by any of its rules. They need not exist. */
export function ignoredAmong(root: string, paths: readonly string[]): Set<string> {
  if (paths.length === 0) return new Set();
  return new Set(names(git(root, ['check-ignore', '-z', '--stdin'], paths.join('\0')).stdout));
}

/** A commit that touched a file. */
export interface Touch {
  path: string;
  id: string;
  day: string;
}

/** Every time a commit of any branch touched files of these patterns, the newest first. */
export function touchesOf(root: string, patterns: readonly string[]): Touch[] {
  const format = ['--relative', '--format=%x00%h %cs', '--name-only'];
  const { stdout } = git(root, ['log', '--all', '--no-renames', ...format, '--', ...patterns]);
  return stdout.split('\0').flatMap((commit) => {
    const [head = '', ...paths] = lines(commit);
    const [id = '', day = ''] = head.split(' ');
    return paths.map((path) => ({ path, id, day }));
  });
}

/** A version of a file that was ever committed. */
export interface Blob {
  id: string;
  path: string;
}

/** Every blob of every branch below a directory, with a path from there that it had, the newest first. */
export function blobsOf(root: string): Blob[] {
  const { stdout } = git(root, ['rev-list', '--objects', '--all', '--', '.']);
  // Here, unlike elsewhere, git tells paths from the top of the repository.
  const prefix = git(root, ['rev-parse', '--show-prefix']).stdout.trim();
  return lines(stdout).flatMap((line) => {
    const at = line.indexOf(' ');
    const path = line.slice(at + 1);
    const isInside = at > 0 && path.length > prefix.length && path.startsWith(prefix);
    return isInside ? [{ id: line.slice(0, at), path: path.slice(prefix.length) }] : [];
  });
}

/**
 * The contents of blobs, one after the other.
 * @param onBlob gets the bytes; they are valid only during the call
 */
export async function readBlobs(
  root: string,
  ids: readonly string[],
  onBlob: (index: number, bytes: Uint8Array) => void,
): Promise<void> {
  const child = spawn('git', [...harmless(root), 'cat-file', '--batch', '--buffer'], {
    cwd: root,
    env: gitEnvironment(),
    stdio: ['pipe', 'pipe', 'ignore'],
  });
  child.stdin.on('error', () => undefined);
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
}

/** Sizes of objects, in bytes; 0 for anything but a blob. */
export function blobSizes(root: string, ids: readonly string[]): number[] {
  const args = ['cat-file', '--batch-check=%(objecttype) %(objectsize)', '--buffer'];
  return lines(git(root, args, `${ids.join('\n')}\n`).stdout).map((line) =>
    line.startsWith('blob ') ? Number(line.slice('blob '.length)) : 0,
  );
}

/** The commits of any branch that added or removed a blob, newest first. */
export function commitsWith(root: string, id: string): { id: string; day: string }[] {
  return lines(git(root, ['log', '--all', `--find-object=${id}`, '--format=%h %cs']).stdout).map((line) => {
    const [commit = '', day = ''] = line.split(' ');
    return { id: commit, day };
  });
}
