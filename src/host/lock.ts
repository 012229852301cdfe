import { linkSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Failure } from '../core/findings/failure.js';
import { sha256 } from '../core/text/hash.js';
import { isRunning, machine } from './machine.js';
import { renameFile } from './rename.js';
import { inStateFolder, removeIfEmpty, STATE_FOLDER } from './state-folder.js';

/** A change takes milliseconds. A lock of another machine that is older has been left by a process that ended. */
const LONGEST_MS = 30_000;
const PAUSE_MS = 10;

/**
 * Reads, changes and writes a file while no other process of Adder does, so that no change is lost. The lock is a file in
 * `.adder/`; one whose process has ended is removed.
 * @param root the directory with `.adder/`
 * @param path the file that is changed
 * @throws Failure if another process holds the lock for too long
 */
export function whileLocked<T>(root: string, path: string, change: () => T): T {
  const lock = join(root, STATE_FOLDER, `lock-${sha256(Buffer.from(path)).slice(0, 16)}`);
  const owner = `${process.pid} ${machine()} ${Math.random().toString(36).slice(2)}`;
  if (!acquired(root, lock, owner)) return change();
  try {
    return change();
  } finally {
    rmSync(lock, { force: true });
    removeIfEmpty(root);
  }
}

/** @returns false where nothing can be written, so that no other process changes the file either */
function acquired(root: string, lock: string, owner: string): boolean {
  for (const until = Date.now() + LONGEST_MS; ; ) {
    try {
      inStateFolder(root, () => writeFileSync(lock, owner, { flag: 'wx', mode: 0o600 }));
      return true;
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EACCES' || code === 'EROFS' || code === 'EPERM') return false;
      if (code !== 'EEXIST') throw error;
    }
    if (Date.now() > until)
      throw new Failure('another process of Adder is changing the same file', `wait for it, or remove ${lock}`);
    removeIfLeft(lock);
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, PAUSE_MS);
  }
}

/** Removes a lock whose process has ended. If several processes see it, one of them moves it away. */
function removeIfLeft(lock: string): void {
  const away = `${lock}.${process.pid}`;
  try {
    const holder = readFileSync(lock, 'utf8');
    const [pid, where] = holder.split(' ');
    const isLeft = where === machine() ? !isRunning(Number(pid)) : Date.now() - statSync(lock).mtimeMs > LONGEST_MS;
    if (!isLeft) return;
    renameFile(lock, away);
    // Another process may have removed that lock and taken its own in between.
    if (readFileSync(away, 'utf8') !== holder) linkSync(away, lock);
  } catch (error) {
    if (!/^(ENOENT|EEXIST)$/.test((error as NodeJS.ErrnoException).code ?? '')) throw error;
  } finally {
    rmSync(away, { force: true });
  }
}
