import { type Call, defineCommand } from '../command.js';

const options = ['contract', 'bundle', 'from-stdin', 'color', 'debug'] as const;

/** The call of this command. */
export type FillCall = Call<(typeof options)[number]>;

export const fill = defineCommand({
  name: 'fill',
  positionals: [{ name: 'STAGE', help: 'The stage', completes: 'stage' }],
  about:
    "Asks for each value of the stage that is missing or invalid on this machine, checks it, and writes it to the stage's most local env file. Input for build and server variables is hidden, and is never written to a file that git tracks.",
  meanings: { bundle: 'The bundle whose layers to fill, if bundles have their own' },
  options,
  examples: [
    ['adder fill development', 'ask for one value after the other'],
    ['openssl rand -hex 32 | adder fill development --from-stdin FARE_SIGNING_KEY', 'one value, from another program'],
  ],
  load: async () => (await import('../run/fill.js')).run,
});
