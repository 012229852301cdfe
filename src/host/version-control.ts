import { spawnSync } from 'node:child_process';
import { dirname } from 'node:path';

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
