import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    // Real builds and npm run in the same two cores.
    testTimeout: 60_000,
    hookTimeout: 120_000,
    maxWorkers: 2,
    coverage: { provider: 'v8', include: ['src/core/**'], exclude: ['**/assembly/**'], reporter: ['text-summary'] },
  },
});
