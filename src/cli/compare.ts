import { scopesOf } from '../core/contract/scopes.js';
import { compareReport } from '../core/report/compare.js';
import { today } from '../host/world.js';
import { compareBuilds, isReceiptName } from '../project/compare.js';
import { openProject, stageOf } from '../project/open.js';
import { StageResolver } from '../project/resolve.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printReport } from './print.js';

export const compareStages = defineCommand({
  name: 'compare',
  positionals: [
    { name: 'FIRST', help: 'A stage, or a receipt: `newest`, `previous`, or a file', completes: 'stage' },
    { name: 'SECOND', help: 'Another stage, or a receipt', completes: 'stage' },
  ],
  needs: { count: 2, what: 'two stages or receipts' },
  about:
    'Compares two stages by their own files: what only one has, what differs, what is equal, and what breaks a rule of the contract. Compares a receipt with another one, or with a stage as it is now: which values changed, and what to do about each. Secrets are compared, never shown.',
  options: [...reportOptions, 'bundle', 'color', 'debug'],
  meanings: { bundle: 'The bundle whose receipts `newest` and `previous` mean' },
  examples: [
    ['adder compare staging production', 'before a release'],
    ['adder compare newest production', 'what changed since the last build'],
    ['adder compare previous newest --bundle ticket-desk', 'what changed between two builds'],
  ],
  async run({ words: [first = '', second = ''], options, world }) {
    const project = openProject(world, options.contract);
    if ([first, second].some((word) => isReceiptName(project, word))) {
      const report = compareBuilds(project, [first, second], options.bundle, world);
      return printReport(report, options, world, { project });
    }
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
