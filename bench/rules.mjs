// Cost of the rules that search for undeclared secrets: the search with all rules, against the same for the values of the contract
// alone. Exits 1 when the goal is missed.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'esbuild';
import { largeCorpus } from './corpus.mjs';
import { Goals, times } from './report.mjs';

const work = mkdtempSync(join(import.meta.dirname, '../node_modules/.cache/adder-bench-'));
const outfile = join(work, 'rules.mjs');
await build({
  entryPoints: [join(import.meta.dirname, 'rules-entry.ts')],
  bundle: true,
  minify: true,
  platform: 'node',
  format: 'esm',
  external: ['oxc-parser'],
  banner: {
    js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
  },
  logLevel: 'error',
  outfile,
});
const env = { PATH: process.env.PATH, HOME: tmpdir(), LC_ALL: 'C' };
const corpus = largeCorpus(400 * 2 ** 20);
const goals = new Goals();
for (const count of ['10', '300']) {
  const run = (which) => [process.execPath, outfile, which, corpus, count];
  const [all, anchors] = times([run('all'), run('anchors')], 7, env);
  goals.atMost(`all rules, 400 MB, ${count} values, against the values alone, time`, all, anchors, 2);
}
rmSync(work, { recursive: true });
goals.tell();
