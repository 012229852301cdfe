// Bundles the program for the thread in which most tests call it, with the files that it starts threads of its own from.
// Everything that tests write is in one temporary directory, which is removed at the end.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bundle } from '../../scripts/bundle.mjs';

const dir = join(import.meta.dirname, '../../node_modules/.adder-tests');

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

/** @param {import('vitest/node').TestProject} project */
export default async function setup(project) {
  const folder = mkdtempSync(join(tmpdir(), 'adder-tests-'));
  for (const name of ['TMPDIR', 'TEMP', 'TMP']) process.env[name] = folder;
  await bundleCaller();
  project.onTestsRerun(bundleCaller);
  return () => rmSync(folder, { recursive: true, force: true });
}
