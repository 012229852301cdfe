import { spawnSync } from 'node:child_process';
import { dirname } from 'node:path';
import { Failure } from '../core/failure.js';

/** What version control makes of a file. `free`: there is none here. */
export type Tracking = 'tracked' | 'would-be-tracked' | 'ignored' | 'free';

/** Asks git itself: its ignore rules come from many places, and no reading of files knows them all. */
export function trackingOf(path: string): Tracking {
  const git = (...args: string[]) => spawnSync('git', [...args, '--', path], { cwd: dirname(path), stdio: 'ignore' });
  const known = git('ls-files', '--error-unmatch');
  if (known.error || known.status === 128) return 'free';
  if (known.status === 0) return 'tracked';
  const ignored = git('check-ignore', '--quiet');
  if (ignored.status === 0) return 'ignored';
  return ignored.status === 1 ? 'would-be-tracked' : 'free';
}

/**
 * Files that differ from a revision, and those that version control does not know yet.
 * @param root paths are relative to it
 * @throws Failure where the revision is none, or there is no repository
 */
export function changedSince(revision: string, root: string): Set<string> {
  const git = (...args: string[]) =>
    spawnSync('git', args, { cwd: root, encoding: 'utf8', maxBuffer: 256 * 1024 * 1024 });
  const changed = git('diff', '--name-only', '--relative', '-z', '--end-of-options', revision, '--', '.');
  if (changed.status !== 0)
    throw new Failure(
      `git does not know the revision "${revision}" here`,
      'name a commit, a branch or a tag of this repository',
    );
  const untracked = git('ls-files', '--others', '--exclude-standard', '-z');
  return new Set(`${changed.stdout}${untracked.stdout}`.split('\0').filter(Boolean));
}
