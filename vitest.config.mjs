import { defineConfig } from 'vitest/config';
import { moduleForms } from './scripts/module-forms.mjs';

export default defineConfig({
  resolve: { alias: moduleForms },
  test: {
    include: ['test/**/*.test.ts'],
    globalSetup: 'test/support/global-setup.mjs',
    // Real builds and npm run in the same two cores.
    testTimeout: 60_000,
    hookTimeout: 120_000,
    // Programs that tests start leave cores idle now and then.
    maxWorkers: 3,
    // Modules are loaded once, and not for each file.
    isolate: false,
    // Texts show local times.
    env: { TZ: 'UTC' },
    // A test that asserts nothing fails.
    expect: { requireAssertions: true },
    coverage: {
      provider: 'v8',
      include: ['src/core/**'],
      // Code that runs in WebAssembly and in the browser.
      exclude: ['**/assembly/**', '**/html/page/**', '**/page-assets.ts'],
      reporter: ['text-summary'],
      thresholds: { statements: 90, branches: 80, functions: 90, lines: 90 },
    },
  },
});
