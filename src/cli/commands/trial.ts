import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'bundle', 'real', 'color', 'debug'] as const;

/** The call of this command. */
export type TrialCall = Call<(typeof options)[number]>;

export const trialBuild = defineCommand({
  name: 'trial',
  positionals: [{ name: 'STAGE', help: 'The stage to build for', completes: 'stage' }],
  takesRest: true,
  needs: { count: 1, what: 'a stage' },
  about:
    "Builds a copy of the project with made-up values that can be recognised, and finds where each arrives: which variable, from which line of which file, in which file of the output. No secret is used, and the project's own files stay as they are. Without COMMAND, it runs the bundle's `build` from the contract.",
  options,
  meanings: { bundle: 'The bundle to build (default: the only one)' },
  examples: [
    ['adder trial production -- npm run build', 'see what this code and configuration let out'],
    ['adder trial production --real LICENCE_KEY', 'let the build have one real value that it checks'],
  ],
  load: async () => (await import('../run/trial.js')).run,
});
