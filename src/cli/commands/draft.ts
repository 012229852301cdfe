import { CONTRACT_NAME } from '../../project/open.js';
import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [
  ...reportOptions,
  'merge',
  'trial',
  'stage',
  'bundle',
  'real',
  'twice',
  'dry-run',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type DraftCall = Call<(typeof options)[number]>;

export const draftContract = defineCommand({
  name: 'draft',
  positionals: [],
  takesRest: true,
  about: `Reads the env files, stage files, source code, package manifests and build configurations of a project, and writes a first ${CONTRACT_NAME}. Each guess has its reason as a comment; a variable without evidence gets the reach server. With --trial it builds a copy of the project with made-up values, and writes what the build shows where it would guess. Never overwrites a file.`,
  options,
  meanings: {
    stage: 'With --trial: the stage to build for (default: production, or the last one that ships)',
    bundle: 'With --trial: the bundle to build (default: each that has a build command)',
    twice: 'With --trial: also follow flags, choices and short numbers, by building again with other values',
    real: 'With --trial: give the build the real value of this variable, in place of a made-up one',
  },
  examples: [
    ['adder draft', 'a first contract for the project in this directory'],
    ['adder draft --trial -- npm run build', 'find out by a build with made-up values'],
    ['adder draft --dry-run', 'print it; write nothing'],
    ['adder draft --merge', 'add what is new since the contract was written'],
  ],
  load: async () => (await import('../run/draft.js')).run,
});
