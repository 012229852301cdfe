import { compareReport } from '../core/report/compare.js';
import { today } from '../host/world.js';
import { openProject, stageOf } from '../project/open.js';
import { StageResolver } from '../project/resolve.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printReport } from './print.js';

export const compareStages = defineCommand({
  name: 'compare',
  positionals: [
    { name: 'FIRST', help: 'A stage', completes: 'stage' },
    { name: 'SECOND', help: 'Another stage', completes: 'stage' },
  ],
  needs: { count: 2, what: 'two stages' },
  about:
    'Compares two stages by their own files: what only one has, what differs, what is equal, and what breaks a rule of the contract. Secrets are compared, never shown.',
  options: [...reportOptions, 'color', 'debug'],
  examples: [['adder compare staging production', 'before a release']],
  async run({ words: [first = '', second = ''], options, world }) {
    const project = openProject(world, options.contract);
    const stages = [stageOf(project, first), stageOf(project, second)] as const;
    const { first: one, second: other, findings } = new StageResolver(project, world).pair(...stages);
    return printReport(compareReport(project.contract, one, other, findings, today(world)), options, world, {
      project,
    });
  },
});
