import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'all', 'bundle', 'reveal', 'color', 'debug'] as const;

/** The call of this command. */
export type ValuesCall = Call<(typeof options)[number]>;

export const values = defineCommand({
  name: 'values',
  positionals: [
    { name: 'STAGE', help: 'The stage', completes: 'stage' },
    { name: 'NAMES', help: 'Only these variables', completes: 'variable' },
  ],
  about:
    'Shows the value of each variable in a stage, and where it comes from. Only public values are shown; others are masked.',
  options,
  examples: [
    ['adder values production', 'every variable of the stage, and the problems'],
    ['adder values staging FERRY_API_URL', 'one variable'],
    ['adder values production --bundle ticket-desk', 'names as the code of a bundle reads them'],
    ['adder values --all', 'all stages side by side, and what to do first'],
    ['adder values production --format json', 'as JSON'],
  ],
  load: async () => (await import('../run/values.js')).run,
});
