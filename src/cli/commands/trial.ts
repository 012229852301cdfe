import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'bundle', 'real', 'again', 'twice', 'in-place', 'color', 'debug'] as const;

/** The call of this command. */
export type TrialCall = Call<(typeof options)[number]>;

export const trialBuild = defineCommand({
  name: 'trial',
  positionals: [{ name: 'STAGE', help: 'The stage to build for', completes: 'stage' }],
  takesRest: true,
  needs: { count: 1, what: 'a stage' },
  about:
    "Builds a copy of the project with made-up values and reports where each one arrives. The table names the file and line that set each value, the code that reads it, and the output files that contain it. The build gets no real secret, and the project's own files do not change. If nothing changed since the last trial, that one is shown. Without COMMAND, it runs the bundle's `build` from the contract.",
  options,
  meanings: { bundle: 'The bundle to build (default: the only one)' },
  examples: [
    ['adder trial production -- npm run build', 'find the values that this code and configuration expose'],
    ['adder trial production --real LICENCE_KEY', 'give the build one real value'],
  ],
  load: async () => (await import('../run/trial.js')).run,
});
