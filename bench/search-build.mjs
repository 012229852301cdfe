import { join } from 'node:path';
import { build } from 'esbuild';

/** The matcher, the runs that it reports too, and what has threads use it, each in a file as a program loads it. @param {string} outdir @returns the directory */
export async function builtSearch(outdir) {
  await build({
    entryPoints: [
      'core/search/matcher-for.ts',
      'core/inspect/token-runs.ts',
      'host/scan-ahead.ts',
      'host/scan-threads.ts',
      'host/scan-worker.ts',
    ].map((path) => join(import.meta.dirname, '../src', path)),
    bundle: true,
    minify: true,
    platform: 'node',
    define: { 'import.meta.dirname': '__dirname' },
    logLevel: 'error',
    outdir,
    entryNames: '[name]',
    outExtension: { '.js': '.cjs' },
  });
  return outdir;
}
