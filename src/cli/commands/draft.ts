import { CONTRACT_NAME } from '../../project/open.js';
import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'merge', 'dry-run', 'color', 'debug'] as const;

/** The call of this command. */
export type DraftCall = Call<(typeof options)[number]>;

export const draftContract = defineCommand({
  name: 'draft',
  positionals: [],
  about: `Reads the env files, stage files, source code, package manifests and build configurations of a project, and writes a first ${CONTRACT_NAME}. Each guess has its reason as a comment; a variable without evidence gets the reach server. Never overwrites a file.`,
  options,
  examples: [
    ['adder draft', 'a first contract for the project in this directory'],
    ['adder draft --dry-run', 'print it; write nothing'],
    ['adder draft --merge', 'add what is new since the contract was written'],
  ],
  load: async () => (await import('../run/draft.js')).run,
});
