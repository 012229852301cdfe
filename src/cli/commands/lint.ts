import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'bundle', 'fix', 'trial', 'dry-run', 'since', 'explain', 'color', 'debug'] as const;

/** The call of this command. */
export type LintCall = Call<(typeof options)[number]>;

export const lint = defineCommand({
  name: 'lint',
  positionals: [],
  about:
    'Checks code and repository against the contract: reads that are undefined after a build, secrets that reach the browser, hard-coded values, and files that disclose secrets.',
  options,
  meanings: { trial: 'Correct what the last trial of this code shows to be otherwise' },
  examples: [
    ['adder lint', 'the code of all bundles, and the repository'],
    ['adder lint --fix --dry-run', 'what can be fixed, as a diff'],
    ['adder lint --since main', 'only files that changed since then'],
    ['adder lint --explain code/unreachable-read', 'what a code means, with an example and the remedy'],
    ['adder lint --format sarif --save lint.sarif', 'for code hosts and editors'],
  ],
  load: async () => (await import('../run/lint.js')).run,
});
