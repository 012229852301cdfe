import { renameSync } from 'node:fs';

/** Tries, and the time between two of them. */
const [MOST_TRIES, PAUSE_MS] = [20, 50];

/**
 * Gives a file another name. Windows refuses that while any program has the new name's file open, as a virus scanner has for a moment:
 * there it is tried again for a second.
 * @throws the file system's error
 */
export function renameFile(from: string, to: string, { platform, rename }: Renaming = theSystem): void {
  for (let tries = 1; ; tries++) {
    try {
      rename(from, to);
      return;
    } catch (error) {
      if (platform !== 'win32' || tries === MOST_TRIES || !isInUse(error)) throw error;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, PAUSE_MS);
    }
  }
}

/** The system's own function, and its name in Node.js. */
interface Renaming {
  platform: string;
  rename: (from: string, to: string) => void;
}

const theSystem: Renaming = { platform: process.platform, rename: renameSync };

function isInUse(error: unknown): boolean {
  return /^(EPERM|EACCES|EBUSY)$/.test((error as NodeJS.ErrnoException).code ?? '');
}
