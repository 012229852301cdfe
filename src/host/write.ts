import {
  chmodSync,
  chownSync,
  closeSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  type Stats,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { EXIT, Failure } from '../core/findings/failure.js';
import { isRunning, machine } from './machine.js';
import { renameFile } from './rename.js';
import { makeStateFolder, onceMoreIfGone, removeIfEmpty, TEMPORARY } from './state-folder.js';

export { inStateFolder, STATE_FOLDER } from './state-folder.js';

export interface WriteHow {
  /** The directory whose `.adder/` holds the temporary file: the contract's, or the working directory. */
  root: string;
  /** Permissions of a new file. A file that exists keeps its own, unless it is `isSecret`. */
  mode?: number;
  /** Restricts the file to its owner, also if it had other permissions. */
  isSecret?: boolean;
}

/**
 * Replaces a file in one step, or does not change it: temporary file, fsync, rename. The temporary file is in
 * the self-ignored `.adder/`, so that a killed write leaves nothing where version control or a web server would see it.
 * Anything but a regular file (a pipe, a terminal, `/dev/null`) is written to directly. A symlink stays: its target is replaced.
 * @throws Failure that names the path where it is a directory or cannot be written
 */
export function writeWhole(path: string, data: string | Uint8Array, how: WriteHow): void {
  try {
    replace(path, data, how);
  } catch (error) {
    if (error instanceof Failure) throw error;
    const { code } = error as NodeJS.ErrnoException;
    if (!code || !/^E[A-Z]+$/.test(code)) throw error;
    throw new Failure(
      `${path} cannot be written: ${whyNotWritten(code)}`,
      'check the path, its permissions and the disk',
      EXIT.unread,
    );
  }
}

/** Why something cannot be written, as a phrase after a colon. @param code of the file system's error */
export function whyNotWritten(code: string): string {
  if (code === 'ENOSPC' || code === 'EDQUOT') return 'no space left on the device';
  if (code === 'EACCES' || code === 'EPERM') return 'permission denied';
  if (code === 'EBUSY') return 'another program uses it';
  if (code === 'EROFS') return 'the file system is read-only';
  if (code === 'ENOTDIR' || code === 'EEXIST') return 'part of the path is not a directory';
  if (code === 'ENAMETOOLONG') return 'the name is too long';
  return code;
}

function replace(path: string, data: string | Uint8Array, { root, mode, isSecret }: WriteHow): void {
  const old = statSync(path, { throwIfNoEntry: false });
  if (old?.isDirectory()) throw new Failure(`${path} is a directory`, 'use a file name');
  if (old && !old.isFile()) {
    writeFileSync(path, data);
    return;
  }
  const target = old ? realpathSync(path) : path;
  mkdirSync(dirname(target), { recursive: true });
  const permissions = isSecret ? 0o600 : old ? old.mode & 0o7777 : (mode ?? 0o644);
  const temporary = writeTemporary(root, target, data, permissions, old);
  try {
    move(temporary, target);
  } finally {
    rmSync(temporary, { force: true });
    removeIfEmpty(dirname(dirname(dirname(temporary))));
  }
}

/** Another process may remove the empty directory that this one just made. @returns the path */
function writeTemporary(
  root: string,
  target: string,
  data: string | Uint8Array,
  permissions: number,
  old: Stats | undefined,
): string {
  return onceMoreIfGone(() => {
    const temporary = temporaryPath(root, target);
    try {
      writeNew(temporary, data, permissions, old);
      return temporary;
    } catch (error) {
      rmSync(temporary, { force: true });
      throw error;
    }
  });
}

/** Closed before it gets its name, so that no reader sees half of it. */
function writeNew(path: string, data: string | Uint8Array, permissions: number, old: Stats | undefined): void {
  const file = openSync(path, 'wx', 0o600);
  try {
    writeAll(file, typeof data === 'string' ? Buffer.from(data) : data);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  if (old && process.getuid?.() === 0) chownSync(path, old.uid, old.gid);
  chmodSync(path, permissions);
}

/** A write may take less than it was given. */
function writeAll(file: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length; ) at += writeSync(file, bytes, at);
}

/** Another file system takes no rename: there a directory of the target's own holds the temporary file. */
function move(temporary: string, target: string): void {
  try {
    renameFile(temporary, target);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EXDEV') throw error;
    const beside = dirname(target);
    const near = temporaryPath(beside, target);
    try {
      const { mode } = statSync(temporary);
      copyWhole(temporary, near, mode & 0o7777);
      renameFile(near, target);
    } finally {
      rmSync(near, { force: true });
      removeIfEmpty(beside);
    }
  }
}

function copyWhole(from: string, to: string, permissions: number): void {
  writeNew(to, readFileSync(from), permissions, undefined);
}

/** A new path for a file that gets its name when it is whole. Files that killed processes left are removed. */
export function temporaryPath(root: string, target: string): string {
  const folder = temporaryFolder(root, dirname(target));
  sweep(folder);
  const name = `${process.pid}-${machine()}-${Math.random().toString(36).slice(2)}-${basename(target)}`;
  return join(folder, name.slice(0, 200));
}

/** Falls back to the target's directory if the project is read-only. */
function temporaryFolder(root: string, beside: string): string {
  try {
    const folder = join(makeStateFolder(root), TEMPORARY);
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    return folder;
  } catch (error) {
    if (root === beside || error instanceof Failure) throw error;
    return temporaryFolder(beside, beside);
  }
}

/** Removes what killed processes of this machine left: the name begins with the writer's process number. */
function sweep(folder: string): void {
  for (const name of readdirSync(folder)) {
    const [pid, where] = name.split('-');
    if (where === machine() && !isRunning(Number(pid))) rmSync(join(folder, name), { force: true });
  }
}
