import { compareReport } from '../core/report/compare.js';
import { today } from '../host/world.js';
import { openProject, stageOf } from '../project/open.js';
import { Resolver } from '../project/resolve.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printReport } from './print.js';

export const compareStages = defineCommand({
  name: 'compare',
  words: 'STAGE STAGE',
  arity: [2, 2],
  about:
    'Two stages side by side, as their own files have them: what only one has, what differs, what is the same, and where that is not what the contract says. Secrets are compared, never shown.',
  options: [...reportOptions, 'color', 'debug'],
  examples: [['adder compare staging production', 'before a release']],
  async run({ words: [first = '', second = ''], options, world }) {
    const project = openProject(world, options.contract);
    const stages = [stageOf(project, first), stageOf(project, second)] as const;
    const { first: one, second: other, findings } = new Resolver(project, world).pair(...stages);
    return printReport(compareReport(project.contract, one, other, findings, today(world)), options, world, {
      project,
    });
  },
});
