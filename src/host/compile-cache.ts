import { lstatSync, mkdirSync } from 'node:fs';
import nodeModule from 'node:module';

/** Node.js has the cache from 22.1 on; the types are those of the oldest version that Adder runs on. */
const { enableCompileCache } = nodeModule as { enableCompileCache?: (directory: string) => unknown };

/**
 * Lets Node.js keep the compiled code of Adder's own files in the user's cache directory, so that later calls start faster.
 * The directory is the user's alone, because whoever could write to it could change what Adder does. Nothing is kept
 * where that is not so, where Node.js has no cache, or where `NODE_DISABLE_COMPILE_CACHE` is set.
 */
export async function keepCompiled(): Promise<void> {
  if (!enableCompileCache) return;
  try {
    // A user without a home directory makes this import fail.
    const { default: envPaths } = await import('env-paths');
    const { cache } = envPaths('adder', { suffix: '' });
    mkdirSync(cache, { recursive: true, mode: 0o700 });
    if (isOwn(cache)) enableCompileCache(cache);
  } catch {
    // Without a cache, Adder only starts more slowly.
  }
}

function isOwn(directory: string): boolean {
  const stats = lstatSync(directory);
  if (!stats.isDirectory()) return false;
  // Windows gives a user's directories to that user without such permissions.
  return process.platform === 'win32' || (stats.uid === process.getuid?.() && (stats.mode & 0o077) === 0);
}
