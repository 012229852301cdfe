import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [
  ...reportOptions,
  'bundle',
  'all',
  'parallel',
  'show-env',
  'inspect',
  'receipt',
  'allow-incomplete',
  'restart',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type WithCall = Call<(typeof options)[number]>;

export const withValues = defineCommand({
  name: 'with',
  positionals: [{ name: 'STAGE', help: 'The stage to build for', completes: 'stage' }],
  takesRest: true,
  about:
    "Runs a build with exactly the values that its bundle may have. Refuses to start if one is missing or malformed, masks build and server values in the output, and writes a receipt. Without COMMAND, it runs the bundle's `build` from the contract.",
  meanings: {
    bundle: 'The bundle to build (default: the only one)',
    all: 'Build every bundle that has a build command in the contract',
    save: 'Write the report of a refused build, or of --inspect, to this file',
    'fail-on': 'With --inspect: exit with code 1 on findings of this level or higher',
    'allow-incomplete':
      'With --inspect: allow build and server variables without a value here, which cannot be searched for',
    format: 'Format of a refusal, of --show-env and of --inspect',
  },
  options,
  examples: [
    ['adder with production -- npm run build', 'build the only bundle'],
    ['adder with staging --bundle ticket-desk -- npx vite build', 'build one of several bundles'],
    ['adder with production --all --parallel 4', 'build all bundles, four at a time'],
    ['adder with production --inspect -- npm run build', 'build, then inspect the output'],
    ['adder with development --restart -- npm run dev', 'restart the dev server when a value changes'],
    ['adder with production --show-env', 'list the names that the build gets'],
  ],
  load: async () => (await import('../run/with.js')).run,
});
