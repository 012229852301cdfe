// Writes the reference pages; with --check says whether they are up to date, and writes nothing.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { load } from './load.mjs';

process.chdir(join(import.meta.dirname, '..'));
const { pages } = await load('scripts/docs.ts');
const check = process.argv.includes('--check');

for (const [path, text] of Object.entries(await pages())) {
  const isSame = existsSync(path) && readFileSync(path, 'utf8') === text;
  if (!check) writeFileSync(path, text);
  else if (!isSame) {
    console.error(`${path} is not up to date: npm run docs`);
    process.exitCode = 1;
  }
}
