import { type Call, defineCommand } from '../command.js';

const options = ['contract', 'print', 'rotate', 'color', 'debug'] as const;

/** The call of this command. */
export type KeyCall = Call<(typeof options)[number]>;

export const projectKey = defineCommand({
  name: 'key',
  positionals: [],
  about:
    "Shows where the project's key is, and which entries of the history it opens. Creates a key if the project has none. The key is in `.adder/key`, which git ignores; a pipeline gets it in `ADDER_KEY`. Without the key, nobody can read the history or compare receipts with values.",
  options,
  examples: [
    ['adder key', 'where it is, and what it opens'],
    ['adder key --print', "for a pipeline's secret store"],
    ['adder key --rotate', 'begin a new section of the history, after somebody left'],
  ],
  load: async () => (await import('../run/key.js')).run,
});
