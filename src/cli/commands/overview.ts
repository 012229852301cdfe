import { type Call, defineCommand } from '../command.js';

const options = ['contract', 'format', 'color', 'debug'] as const;

/** The call of this command. */
export type OverviewCall = Call<(typeof options)[number]>;

export const showOverview = defineCommand({
  name: 'overview',
  positionals: [],
  about:
    'Shows where the project stands: for each stage, how many values are missing or wrong; for each bundle, its last build and what has changed since; what the last gate and trial said; and the command that comes next, with the reason. It builds nothing and searches nothing. `adder` without a command does the same. The exit code is 0.',
  options,
  meanings: { format: 'Format of the result: text or json' },
  examples: [
    ['adder', 'in a project'],
    ['adder --format json', 'for a prompt or an editor'],
  ],
  load: async () => (await import('../run/overview.js')).run,
});
