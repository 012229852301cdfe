import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'color', 'debug'] as const;

/** The call of this command. */
export type WhyCall = Call<(typeof options)[number]>;

export const whyValue = defineCommand({
  name: 'why',
  positionals: [{ name: 'NAME', help: 'The variable', completes: 'variable' }],
  needs: { count: 1, what: 'a variable' },
  about:
    'Follows one variable through all stages: which layers set it, which one wins, which bundles get it and under what name, where code reads it, and which artifacts contained it after the last build.',
  options,
  examples: [
    ['adder why FERRY_API_URL', 'where its value comes from, and where it goes'],
    ['adder why FERRY_API_URL --format json', 'as JSON'],
  ],
  load: async () => (await import('../run/why.js')).run,
});
