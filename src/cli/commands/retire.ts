import { type Call, defineCommand } from '../command.js';

const options = ['contract', 'stage', 'because', 'color', 'debug'] as const;

/** The call of this command. */
export type RetireCall = Call<(typeof options)[number]>;

export const retire = defineCommand({
  name: 'retire',
  positionals: [{ name: 'NAME', help: 'The variable whose value will be changed', completes: 'variable' }],
  needs: { count: 1, what: 'the name of a variable' },
  about:
    "Marks a variable's present value as replaced, before you change it, so that it is recognised wherever it still is. The history gets the value's fingerprint and never a secret. Call it once for each value that you replace.",
  meanings: {
    stage: 'The stage whose value is replaced (default: every stage that has one here)',
    because: 'Why the value is replaced',
  },
  options,
  examples: [
    ["adder retire FARE_SIGNING_KEY --because 'rotated every quarter'", 'before the new value is set'],
    ['adder retire MAP_TILES_KEY --stage staging', 'of one stage'],
  ],
  load: async () => (await import('../run/retire.js')).run,
});
