import { type Call, defineCommand } from '../command.js';

const options = [
  'changes',
  'format',
  'save',
  'replace',
  'annotations',
  'fail-on',
  'quiet',
  'contents',
  'allow-incomplete',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type ShowCall = Call<(typeof options)[number]>;

export const show = defineCommand({
  name: 'show',
  positionals: [{ name: 'REPORTS', help: 'Reports that were saved with --format json' }],
  needs: { count: 1, what: 'a report' },
  about:
    'Prints saved JSON reports again, in any format. Several reports with findings are merged: of the parts of one output (`adder inspect --shard`), of bundles, of machines, of commands. With --changes, what the second of two reports has that the first has not.',
  options,
  examples: [
    ['adder show adder.json', 'a saved report, as text'],
    ['adder show adder.json --format html --save adder.html', 'as a page'],
    ['adder show part-*.json', 'the parts of one output, as one report'],
    ['adder show main.json branch.json --changes --format markdown', 'what a branch brings, for a review comment'],
  ],
  load: async () => (await import('../run/show.js')).run,
});
