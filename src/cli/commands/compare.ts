import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'bundle', 'color', 'debug'] as const;

/** The call of this command. */
export type CompareCall = Call<(typeof options)[number]>;

export const compareStages = defineCommand({
  name: 'compare',
  positionals: [
    { name: 'FIRST', help: 'A stage, or a receipt: `newest`, `previous`, or a file', completes: 'stage' },
    { name: 'SECOND', help: 'Another stage, or a receipt', completes: 'stage' },
  ],
  needs: { count: 2, what: 'two stages or receipts' },
  about:
    'Compares two stages by their own files: what only one has, what differs, what is equal, and what breaks a rule of the contract. Compares a receipt with another one, or with a stage as it is now: which values changed, and what to do about each. Secrets are compared, never shown.',
  options,
  meanings: { bundle: 'The bundle whose receipts `newest` and `previous` mean' },
  examples: [
    ['adder compare staging production', 'before a release'],
    ['adder compare newest production', 'what changed since the last build'],
    ['adder compare previous newest --bundle ticket-desk', 'what changed between two builds'],
  ],
  load: async () => (await import('../run/compare.js')).run,
});
