import { defineConfig } from 'vitest/config';
import { moduleForms } from './scripts/module-forms.mjs';

const folder = process.env.ADDER_MUTANTS_OF;
/** Folders whose mutants are each tried with all tests: those of the limits would take longer than all others. */
const isTriedWithAll = ['needles', 'mask'].includes(folder);

/** The tests of one folder of the core, and those of all limits, for `npm run mutants`. */
export default defineConfig({
  resolve: { alias: moduleForms },
  test: {
    include: [`test/core/${folder}/**/*.test.ts`, ...(isTriedWithAll ? [] : ['test/core/limits.test.ts'])],
    env: { TZ: 'UTC' },
    // Other mutants run in the same cores.
    testTimeout: 60_000,
  },
});
