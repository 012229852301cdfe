import { openProject } from '../project/open.js';
import { why } from '../project/why.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printReport } from './print.js';

export const whyValue = defineCommand({
  name: 'why',
  positionals: [{ name: 'NAME', help: 'The variable', completes: 'variable' }],
  needs: { count: 1, what: 'a variable' },
  about:
    'Follows one variable through all stages: which layers set it, which one wins, which bundles get it and under what name, where code reads it, and which artifacts contained it after the last build.',
  options: [...reportOptions, 'color', 'debug'],
  examples: [
    ['adder why FERRY_API_URL', 'where its value comes from, and where it goes'],
    ['adder why FERRY_API_URL --format json', 'as JSON'],
  ],
  async run({ words: [name = ''], options, world }) {
    const project = openProject(world, options.contract);
    return printReport(await why(project, name, world), options, world, { project });
  },
});
