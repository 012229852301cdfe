import { gather } from '../core/draft/gather.js';
import type { Material } from '../core/draft/material.js';
import { isSkippedDirectory, isUsualOutput } from '../core/files/directories.js';
import { limits } from '../core/limits/index.js';
import type { Files } from '../host/files.js';
import { filesNamed } from '../host/walk.js';

/** Everything below a directory that a draft can be made from. */
export function gatherMaterial(files: Files, root: string): Material {
  const isSkipped = (path: string) =>
    isSkippedDirectory(path) || isUsualOutput(path) || path.split('/').length > limits.draftDepth.value;
  const paths = filesNamed(files, root, () => true, isSkipped).sort();
  const at = (path: string) => files.path.join(root, path);
  return gather(
    paths,
    (path) => files.readIfPossible(at(path)),
    (path) => files.exists(at(path)),
  );
}
