import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [...reportOptions, 'stage', 'color', 'debug'] as const;

/** The call of this command. */
export type HistoryCall = Call<(typeof options)[number]>;

export const history = defineCommand({
  name: 'history',
  positionals: [{ name: 'NAME', help: 'Only this variable', completes: 'variable' }],
  about:
    'Lists the values that each variable had: stage, days and reasons, never the values. `adder with` and `adder gate` record the values of their stage; `adder retire` says that one will be replaced. `inspect`, `probe` and `gate` recognise all of them in what ships, also where only the key is known. With --format html, a page shows them as a time line, with the builds that had them.',
  meanings: { stage: 'Only this stage' },
  options,
  examples: [
    ['adder history', 'all variables'],
    ['adder history FARE_SIGNING_KEY', 'one variable'],
    ['adder history --format html --save history.html', 'the time line'],
  ],
  load: async () => (await import('../run/history.js')).run,
});
