import { openProject } from '../project/open.js';
import { why } from '../project/why.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printReport } from './print.js';

export const whyValue = defineCommand({
  name: 'why',
  words: 'NAME',
  arity: [1, 1],
  about:
    'One variable in all stages: every layer that offers it, which won, what it took in, which bundles get it and under what name, where their code names it, which artifacts held it at the last build.',
  options: [...reportOptions, 'color', 'debug'],
  examples: [
    ['adder why FERRY_API_URL', 'where its value comes from, and where it goes'],
    ['adder why FERRY_API_URL --format json', 'for programs'],
  ],
  async run({ words: [name = ''], options, world }) {
    const project = openProject(world, options.contract);
    return printReport(await why(project, name, world), options, world, { project });
  },
});
