import { defineConfig } from 'vitest/config';
import { moduleForms } from './scripts/module-forms.mjs';

/** The tests of one folder of the core, and those of all limits, for `npm run mutants`. */
export default defineConfig({
  resolve: { alias: moduleForms },
  test: {
    include: [`test/core/${process.env.ADDER_MUTANTS_OF}/**/*.test.ts`, 'test/core/limits.test.ts'],
    env: { TZ: 'UTC' },
    // Other mutants run in the same cores.
    testTimeout: 60_000,
  },
});
