// Bundles the program for the thread in which most tests call it, with the files that it starts threads of its own from.
import { rmSync } from 'node:fs';
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
  await bundleCaller();
  project.onTestsRerun(bundleCaller);
}
