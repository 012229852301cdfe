import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [
  ...reportOptions,
  'contents',
  'caches',
  'packages',
  'probe',
  'build',
  'trial',
  'allow-incomplete',
  'receipts',
  'threads',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type GateCall = Call<(typeof options)[number]>;

export const gate = defineCommand({
  name: 'gate',
  positionals: [{ name: 'STAGE', help: 'The stage that ships', completes: 'stage' }],
  needs: { count: 1, what: 'a stage' },
  about:
    'Runs all checks for one stage in one call, for a pipeline: the values, the code and the repository, the built files with their receipts, the hosts of the contract, with --trial a build with made-up values, and with --probe the served sites. One report, one exit code.',
  options,
  meanings: {
    trial: 'Also build a copy with made-up values, unless nothing changed since the last trial',
    build:
      'With --probe: the build that the sites should serve: `previous`, the path of a receipt, or a commit (default: the newest one)',
  },
  examples: [
    ['adder gate production', 'all checks before production ships'],
    ['adder gate production --format html --save adder.html', 'as a page'],
    ['adder gate staging --fail-on warning', 'stricter'],
    ['adder gate production --probe', 'after the deployment'],
  ],
  load: async () => (await import('../run/gate.js')).run,
});
