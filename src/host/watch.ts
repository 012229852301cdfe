import { watch } from 'chokidar';

/**
 * Calls back when one of some files changes, appears or goes, once for changes that come together.
 * @returns what ends it
 */
export function watchFiles(paths: readonly string[], onChange: () => void): () => Promise<void> {
  const watcher = watch([...paths], {
    ignoreInitial: true,
    awaitWriteFinish: { stabilityThreshold: 60, pollInterval: 20 },
  });
  let timer: NodeJS.Timeout | undefined;
  watcher.on('all', () => {
    clearTimeout(timer);
    timer = setTimeout(onChange, 50);
  });
  return async () => {
    clearTimeout(timer);
    await watcher.close();
  };
}
