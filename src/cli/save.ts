import { existsSync, readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { Failure } from '../core/findings/failure.js';
import { isOwnOutput } from '../core/report/own-output.js';
import { statOf } from '../host/files.js';
import { isBelow, shownPath } from '../host/paths.js';
import { isRecorded, recordWritten } from '../host/state.js';
import type { World } from '../host/world.js';
import { writeWhole } from '../host/write.js';
import type { Project } from '../project/open.js';

/** What `--save` of any command needs to know. */
export interface Saving {
  /** As given, relative to the working directory. */
  path: string;
  /** `--replace`: the file may be one that Adder did not write. */
  replace: boolean;
  /** The text holds values that are not public. */
  isSecret?: boolean;
  /** Absent where the contract could not be understood. */
  project?: Project | undefined;
}

/**
 * Writes a generated file or a report to the path of `--save`. Never replaces a layer or the contract. Replaces any other
 * file only if Adder wrote it or `--replace` was given.
 * @throws Failure that says what was not written, and why
 */
export function saveOutput(text: string, { path, replace, isSecret = false, project }: Saving, world: World): void {
  const file = resolve(world.cwd, path);
  const root = project?.root ?? world.cwd;
  const old = statOf(file);
  const isFile = old === undefined || old.isFile();
  if (project && isFile) assertNoLayer(project, file, path);
  if (old?.isFile() && !replace) assertOwn(file, path, text, root);
  if (isFile) sayNewFolder(file, world);
  writeWhole(file, text, { root, isSecret });
  if (project && isFile && isBelow(file, root)) remember(root, shownPath(file, root));
}

/** Without the record, the next call needs `--replace`: no reason to fail. */
function remember(root: string, path: string): void {
  try {
    recordWritten(root, path);
  } catch {
    // The project is read-only.
  }
}

function assertNoLayer({ contract, contractPath, root }: Project, file: string, path: string): void {
  if (file === contractPath) throw new Failure(`${path} is the contract; nothing was written`, 'name another file');
  for (const { name: stage, layers } of contract.stages.values())
    for (const layer of layers)
      if (layer.kind === 'file' && join(root, layer.name) === file)
        throw new Failure(`${path} is a layer of ${stage}; nothing was written`, 'name another file');
}

function assertOwn(file: string, path: string, text: string, root: string): void {
  if (isRecorded(root, shownPath(file, root)) || isOwnOutput(readFileSync(file, 'utf8'), text)) return;
  throw new Failure(
    `${path} exists, and Adder did not write it; nothing was written`,
    'name another file, or add --replace to replace this one',
  );
}

function sayNewFolder(file: string, world: World): void {
  const folder = dirname(file);
  if (!existsSync(folder)) world.stderr.write(`adder: creating the directory ${folder}\n`);
}
