// Bundles the program for the thread in which most tests call it, with the files that it starts threads of its own from.
// Everything that tests write is in one temporary directory, which is removed at the end.
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bundle } from '../../scripts/bundle.mjs';

const packages = join(import.meta.dirname, '../../node_modules');
/** One for each run, because two may go on at once. */
const PREFIX = '.adder-tests-';
const dir = join(packages, PREFIX + process.pid);

async function bundleCaller() {
  rmSync(dir, { recursive: true, force: true });
  await bundle(
    {
      caller: 'test/support/call-worker.ts',
      'scan-worker': 'src/host/scan-worker.ts',
      'lint-worker': 'src/project/lint-worker.ts',
    },
    { dir, format: 'cjs', entryFileNames: '[name].cjs', chunkFileNames: '[name].cjs' },
  );
}

/** Removes what a run left that was killed. */
function removeOld() {
  for (const name of readdirSync(packages))
    if (name.startsWith(PREFIX) && !isRunning(Number(name.slice(PREFIX.length))))
      rmSync(join(packages, name), { recursive: true, force: true });
}

/** @param {number} pid */
function isRunning(pid) {
  try {
    return process.kill(pid, 0);
  } catch {
    return false;
  }
}

/** @param {import('vitest/node').TestProject} project */
export default async function setup(project) {
  const folder = mkdtempSync(join(tmpdir(), 'adder-tests-'));
  for (const name of ['TMPDIR', 'TEMP', 'TMP']) process.env[name] = folder;
  process.env.ADDER_TEST_CALLER = join(dir, 'caller.cjs');
  removeOld();
  await bundleCaller();
  project.onTestsRerun(bundleCaller);
  return () => {
    rmSync(dir, { recursive: true, force: true });
    rmSync(folder, { recursive: true, force: true });
  };
}
