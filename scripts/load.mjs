// Imports a TypeScript file of the project, so that scripts can use the tables that the program itself uses.
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const packages = join(import.meta.dirname, '../node_modules');

/** @param {string} path from the repository's root */
export async function load(path) {
  // Within node_modules, so that packages are found from there.
  const folder = mkdtempSync(join(packages, '.adder-script-'));
  try {
    const outfile = join(folder, 'module.mjs');
    await build({
      entryPoints: [path],
      outfile,
      bundle: true,
      packages: 'external',
      platform: 'node',
      format: 'esm',
      logLevel: 'warning',
    });
    return await import(pathToFileURL(outfile).href);
  } finally {
    rmSync(folder, { recursive: true });
  }
}
