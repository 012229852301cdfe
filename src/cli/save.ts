import { layersOf } from '../core/contract/scopes.js';
import { Failure } from '../core/findings/failure.js';
import { isOwnOutput } from '../core/report/own-output.js';
import { isRecorded, type Rooted, recordWritten } from '../host/state.js';
import type { World } from '../host/world.js';
import type { Project } from '../project/open.js';

/** Settings for `--save` of any command. */
export interface Saving {
  /** The path as it was given, relative to the working directory. */
  path: string;
  /** `--replace`: the file may be one that Adder did not write. */
  replace: boolean;
  /** The text holds values that are not public. */
  isSecret?: boolean;
  /** Absent if the contract could not be understood. */
  project?: Project | undefined;
}

/**
 * Writes a generated file or a report to the path of `--save`. Never replaces a layer or the contract; replaces files that
 * are not Adder's own only with `--replace`.
 * @throws Failure with what was not written, and why
 */
export function saveOutput(text: string, { path, replace, isSecret = false, project }: Saving, world: World): void {
  const { files } = world;
  const file = files.path.resolve(world.cwd, path);
  const root = project?.root ?? world.cwd;
  const old = files.stat(file);
  const isFile = old === undefined || old.isFile();
  if (project && isFile) assertNoLayer(project, file, path);
  if (old?.isFile() && !replace) assertOwn({ files, root }, file, path, text);
  if (isFile) sayNewFolder(file, world);
  files.write(file, text, { root, isSecret });
  if (project && isFile && files.isBelow(file, root)) remember(project, files.shown(file, root));
}

/** Without the record, the next call needs `--replace`: no reason to fail. */
function remember(project: Project, path: string): void {
  try {
    recordWritten(project, path);
  } catch {
    // The project is read-only.
  }
}

function assertNoLayer({ contract, contractPath, root, files }: Project, file: string, path: string): void {
  if (file === contractPath) throw new Failure(`${path} is the contract; nothing was written`, 'use another file');
  for (const layer of layersOf(contract))
    if (layer.kind === 'file' && files.path.join(root, layer.name) === file)
      throw new Failure(`${path} is a layer in the contract; nothing was written`, 'use another file');
}

function assertOwn(at: Rooted, file: string, path: string, text: string): void {
  const { files, root } = at;
  if (isRecorded(at, files.shown(file, root)) || isOwnOutput(files.read(file).toString(), text)) return;
  throw new Failure(
    `${path} already exists and was not written by Adder; nothing was written`,
    'use another file, or add --replace',
  );
}

function sayNewFolder(file: string, world: World): void {
  const folder = world.files.path.dirname(file);
  if (!world.files.exists(folder)) world.stderr.write(`adder: creating the directory ${folder}\n`);
}
