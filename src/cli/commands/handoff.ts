import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'host', 'apply', 'yes', 'dry-run', 'color', 'debug'] as const;

/** The call of this command. */
export type HandoffCall = Call<(typeof options)[number]>;

export const handOff = defineCommand({
  name: 'handoff',
  positionals: [
    { name: 'STAGE', help: 'The stage', completes: 'stage' },
    { name: 'NAMES', help: 'With --apply: set only these, also if the host hides their values', completes: 'variable' },
  ],
  needs: { count: 1, what: 'a stage' },
  about:
    'Compares what the hosts of a stage have with what its builds and servers need: missing and misspelt names, different and malformed values, server values that builds get. With --apply, sets what is missing or wrong. Never shows a value.',
  options,
  meanings: { 'dry-run': 'With --apply: show what would be set; set nothing' },
  examples: [
    ['adder handoff production', 'what the hosts have and lack'],
    ['adder handoff production --apply', 'set it, after a question'],
    ['adder handoff production FARE_SIGNING_KEY --apply --yes', 'set one value that changed'],
  ],
  load: async () => (await import('../run/handoff.js')).run,
});
