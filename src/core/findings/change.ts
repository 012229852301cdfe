import { commandText } from '../words/remedy.js';
import type { Reach } from './reach.js';

/**
 * Remedies after a value changed, for one bundle. `nothing`: the value is not in it. `reload`: pages read the value when they
 * load, so only the values file changes. `redeploy`: a current build exists, but an older one is served. `rebuild`: the value is
 * inlined. `restart`: a server reads the value when it starts.
 */
export const actions = ['nothing', 'reload', 'redeploy', 'rebuild', 'restart'] as const;
export type Action = (typeof actions)[number];

/** A value that differs between a build and something later. */
export interface Change {
  variable: string;
  reach: Reach;
  /** Absent for a server value that no bundle of the contract gets. */
  bundle?: string;
  change: 'changed' | 'added' | 'removed';
  action: Action;
  /** Why this action: a phrase. */
  because: string;
  /** The files of the build that contained the value, embedded ones as `archive › member`. */
  files: string[];
}

/** A change since a build. */
export interface Since {
  bundle: string;
  stage: string;
  /** ISO 8601, UTC. */
  builtAt: string;
  /** The command that builds the bundle again, as words. */
  rebuild: string[];
  /** The command that writes its values file, as words. */
  reload: string[];
  changes: Change[];
}

/** The changes that a condition holds for, without builds that have none of them. */
export function changesWhere(since: readonly Since[], holds: (change: Change, since: Since) => boolean): Since[] {
  return since
    .map((one) => ({ ...one, changes: one.changes.filter((change) => holds(change, one)) }))
    .filter(({ changes }) => changes.length > 0);
}

/** Remedy, as an imperative with its command. */
export function howTo(
  action: Action,
  { bundle, rebuild, reload }: Pick<Since, 'bundle' | 'rebuild' | 'reload'>,
): string {
  switch (action) {
    case 'nothing':
      return 'nothing to do';
    case 'reload':
      return `write the values file, and deploy it: ${commandText(reload)}`;
    case 'redeploy':
      return `deploy the current build of ${bundle}`;
    case 'rebuild':
      return `rebuild: ${commandText(rebuild)}`;
    case 'restart':
      return 'set the value on the host, and restart the server';
  }
}
