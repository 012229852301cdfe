import { type Call, defineCommand } from '../command.js';

const options = ['contract', 'stage', 'because', 'until', 'all', 'dry-run', 'color', 'debug'] as const;

/** The call of this command. */
export type AcceptCall = Call<(typeof options)[number]>;

export const accept = defineCommand({
  name: 'accept',
  positionals: [{ name: 'FINGERPRINTS', help: 'Fingerprints from a report; a unique prefix is enough' }],
  about:
    'Accepts findings: writes an acceptance with a reason and an end date to the contract, and leaves the rest of the contract as it is. Values, code, repository and the built files are checked again, to find the fingerprints.',
  meanings: { all: 'Accept every finding that there is today' },
  options,
  examples: [
    ["adder accept 3fa2c1d0 --because 'the key is bound to our domains'", 'one finding, for 90 days'],
    ["adder accept 3fa2c1d0 --because 'moves to the server in May' --until 2027-05-31", 'until a date'],
    ["adder accept --all --because 'found when we adopted Adder' --until 2027-06-30", 'all that is found today'],
  ],
  load: async () => (await import('../run/accept.js')).run,
});
