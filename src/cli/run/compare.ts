import { scopesOf } from '../../core/contract/scopes.js';
import { compareReport } from '../../core/report/compare.js';
import { today } from '../../host/world.js';
import { compareBuilds, isReceiptName } from '../../project/compare.js';
import { openProject, stageOf } from '../../project/open.js';
import { StageResolver } from '../../project/resolve.js';
import type { CompareCall } from '../commands/compare.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [first = '', second = ''], options, world }: CompareCall): Promise<number> {
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
}
