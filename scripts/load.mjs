// Imports a TypeScript file of the project, so that scripts can use the tables that the program itself uses.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const requireForModules =
  "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);";

/** @param {string} path from the repository's root */
export async function load(path) {
  const folder = mkdtempSync(join(tmpdir(), 'adder-script-'));
  try {
    const outfile = join(folder, 'module.mjs');
    const banner = { js: requireForModules };
    await build({
      entryPoints: [path],
      outfile,
      bundle: true,
      platform: 'node',
      format: 'esm',
      banner,
      logLevel: 'warning',
    });
    return await import(pathToFileURL(outfile).href);
  } finally {
    rmSync(folder, { recursive: true });
  }
}
