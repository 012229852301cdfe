import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { buildSync } from 'esbuild';
import { afterAll, expect, test } from 'vitest';

/** Twice the text may take so many times the steps: a little more than twice, and less than for a square. */
const MOST = 2.5;
/** Fewer steps say nothing. */
const FEWEST = 1000;

const cache = join(import.meta.dirname, '../../../node_modules/.cache');
mkdirSync(cache, { recursive: true });
const folder = mkdtempSync(join(cache, 'adder-steps-'));
afterAll(() => rmSync(folder, { recursive: true }));

function counted(): Record<string, { once: number; twice: number; findings: number; isVain: boolean }> {
  const outfile = join(folder, 'count.mjs');
  buildSync({
    entryPoints: [join(import.meta.dirname, 'count.ts')],
    bundle: true,
    platform: 'node',
    format: 'esm',
    banner: { js: "import { createRequire as r } from 'node:module'; const require = r(import.meta.url);" },
    mainFields: ['module', 'main'],
    external: ['oxc-parser'],
    logLevel: 'error',
    outfile,
  });
  // Blocks are counted in code that is loaded after the counter has started.
  writeFileSync(
    join(folder, 'start.mjs'),
    `import { Session } from 'node:inspector';
const session = new Session();
session.connect();
session.post('Profiler.enable');
session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
(await import('./count.mjs')).count();`,
  );
  const { stdout, stderr } = spawnSync(process.execPath, ['start.mjs'], { cwd: folder, encoding: 'utf8' });
  if (stdout === '') throw new Error(stderr);
  return JSON.parse(stdout);
}

const steps = Object.entries(counted());

test.each(steps)('%s: has a finding, or none where it only looks like one', (_, { findings, isVain }) => {
  expect(findings === 0).toBe(isVain);
});

test.each(steps)('%s: twice the text takes at most 2.5 times the steps', (_, { once, twice }) => {
  expect(twice).toBeGreaterThan(FEWEST);
  expect(twice / once).toBeLessThan(MOST);
});
