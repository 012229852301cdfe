import { isInPackages } from '../core/files/directories.js';
import { limits } from '../core/limits/index.js';
import { isWorkflowFile, type Provided, providedFor } from '../core/lint/repository/pipeline.js';
import { Repository } from '../host/version-control.js';
import { filesNamed } from '../host/walk.js';
import type { Project } from './open.js';

/** Settings of the repository's pipelines for builds of a stage; undefined without pipelines. */
export function pipelineSettings({ contract, root, files }: Project, stage: string): Provided[] | undefined {
  const known =
    visibleIn(root) ??
    filesNamed(
      files,
      root,
      (name) => /\.ya?ml$/.test(name),
      () => false,
    );
  const paths = known.filter((path) => isWorkflowFile(path) && !isInPackages(path));
  if (paths.length === 0) return undefined;
  const text = (path: string) =>
    files.readIfPossible(files.path.join(root, path), limits.optionalFileBytes.value)?.toString();
  return providedFor(stage, contract, { paths, text });
}

/** Files that are not ignored; undefined if git does not say. */
function visibleIn(root: string): string[] | undefined {
  try {
    return Repository.at(root)?.visible();
  } catch {
    return undefined;
  }
}
