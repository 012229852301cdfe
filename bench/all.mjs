// Runs every bench; reports a missed goal and goes on with the others.
import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';

const helpers = ['all.mjs', 'report.mjs', 'corpus.mjs', 'modules.mjs', 'search-build.mjs', 'inflate-run.mjs'];
const names = readdirSync(import.meta.dirname).filter((name) => name.endsWith('.mjs') && !helpers.includes(name));
for (const name of names.sort()) {
  console.log(`\n${name}`);
  const { status } = spawnSync(process.execPath, [join(import.meta.dirname, name)], { stdio: 'inherit' });
  if (status !== 0) process.exitCode = 1;
}
