import type { Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import { type CurrentValue, type PastValue, pastValues } from '../core/history/history.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { readHistory, type StoredHistory } from '../host/history.js';
import { readKey } from '../host/state.js';
import { HISTORY, STATE_FOLDER } from '../host/state-folder.js';
import { trackingOf } from '../host/version-control.js';
import type { Project } from './open.js';

/** The history of a project, with the values that its stages have here. */
export interface ProjectHistory extends StoredHistory {
  values: PastValue[];
  /** `no key`: entries exist, and this machine cannot read any. */
  state: 'none' | 'no key' | 'open';
}

/** Reads the history. @param resolutions stages as they are here: their values are not past */
export function projectHistory(project: Project, resolutions: readonly Resolution[]): ProjectHistory {
  const stored = readHistory(project, keyIfReadable(project));
  const values = pastValues(stored.sections, currentValues(resolutions));
  const state = values.length > 0 ? 'open' : stored.closed > 0 ? 'no key' : 'none';
  return { ...stored, values, state };
}

/** Keys before a rotation: receipts of that time are compared with them. */
export function olderKeys(project: Project, key: Uint8Array | undefined): Uint8Array[] {
  return readHistory(project, key).sections.flatMap((one) =>
    one.key.every((byte, at) => byte === key?.[at]) ? [] : one.key,
  );
}

/** A damaged key is reported where receipts are read. */
function keyIfReadable(project: Project): Uint8Array | undefined {
  try {
    return readKey(project);
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    return undefined;
  }
}

/** Files of the history that cannot be used. */
export function unreadEntries({ files, root }: Project, { unread }: StoredHistory): Unread[] {
  return unread.map(({ path, because }) => ({ path: files.shown(path, root), inside: [], because }));
}

/** A line for each reason why version control does not get the history, so that no other machine gets it. */
export function hiddenHistory({ files, root }: Project): string[] {
  const entry = files.path.join(root, STATE_FOLDER, HISTORY, 'entry');
  try {
    if (trackingOf(entry) !== 'ignored') return [];
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    return [];
  }
  const folder = `${STATE_FOLDER}/${HISTORY}`;
  return [
    `git ignores ${folder}, so no other machine gets it: remove the rule that \`git check-ignore -v ${folder}\` names (${STATE_FOLDER}/.gitignore keeps the key out)`,
  ];
}

function currentValues(resolutions: readonly Resolution[]): CurrentValue[] {
  return resolutions.flatMap(({ stage, values }) =>
    [...values.values()].flatMap(({ variable: { name: variable }, value }) =>
      value ? [{ variable, stage: stage.name, value }] : [],
    ),
  );
}
