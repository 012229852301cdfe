// Imports a TypeScript file of the project, so that scripts can use the tables that the program itself uses.
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from './bundle.mjs';

const packages = join(import.meta.dirname, '../node_modules');

/** @param {string} path from the repository's root */
export async function load(path) {
  // Within node_modules, so that packages are found from there.
  const dir = mkdtempSync(join(packages, '.adder-script-'));
  try {
    await bundle(
      { module: path },
      { dir, format: 'esm', entryFileNames: '[name].mjs', codeSplitting: false },
      { external: /^[^./\0]/ },
    );
    return await import(pathToFileURL(join(dir, 'module.mjs')).href);
  } finally {
    rmSync(dir, { recursive: true });
  }
}
