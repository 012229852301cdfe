import { layersOf } from '../core/contract/scopes.js';
import { Repository } from '../host/version-control.js';
import type { Project } from './open.js';

/** Tells whether a clone of the repository has a file of a layer: one that version control ignores is on this machine only. */
export function sharedFiles({ contract, root }: Project): (path: string) => boolean {
  const paths = layersOf(contract).flatMap((layer) => (layer.kind === 'file' ? [layer.name] : []));
  const ignored = Repository.at(root)?.ignoredAmong(paths) ?? new Set();
  return (path) => !ignored.has(path);
}
