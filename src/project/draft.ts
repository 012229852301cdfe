import { gather } from '../core/draft/gather.js';
import type { LeftOut, Material } from '../core/draft/material.js';
import { isSkippedDirectory, isUsualOutput } from '../core/files/directories.js';
import { limits } from '../core/limits/index.js';
import type { Files } from '../host/files.js';
import { filesNamed } from '../host/walk.js';
import { ProjectModules } from './modules.js';

/** Everything below a directory that a draft can be made from. */
export function gatherMaterial(files: Files, root: string): Material {
  const tooDeep: LeftOut[] = [];
  const isSkipped = (path: string) => {
    if (isSkippedDirectory(path) || isUsualOutput(path)) return true;
    if (path.split('/').length <= limits.directoryDepth.value) return false;
    tooDeep.push({ path, because: `is nested in more than ${limits.directoryDepth.value - 1} directories` });
    return true;
  };
  const paths = filesNamed(files, root, () => true, isSkipped).sort();
  const at = (path: string) => files.path.join(root, path);
  const material = gather(
    paths,
    (path) => files.readIfPossible(at(path)),
    (path) => files.exists(at(path)),
    (modules) => {
      const found = new ProjectModules({ files, root }, modules);
      return (...asked) => found.resolve(...asked);
    },
  );
  return { ...material, leftOut: [...material.leftOut, ...tooDeep] };
}
