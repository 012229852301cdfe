import { scopesOf } from '../core/contract/scopes.js';
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
    for (const name of [first, second]) stageOf(project, name);
    const parts = scopesOf(project.contract).map((scope) => {
      const part = { ...project, contract: scope.contract };
      return { scope, ...new StageResolver(part, world).pair(stageOf(part, first), stageOf(part, second)) };
    });
    return printReport(compareReport(project.contract, [first, second], parts, today(world)), options, world, {
      project,
    });
  },
});
