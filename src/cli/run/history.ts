import { historyReport } from '../../core/report/history.js';
import { servedBuilds } from '../../host/state.js';
import { today } from '../../host/world.js';
import { hiddenHistory, projectHistory, unreadEntries } from '../../project/history.js';
import { LastBuilds } from '../../project/last-build.js';
import { openProject, stageOf, variableOf } from '../../project/open.js';
import { allStages } from '../../project/resolve.js';
import type { HistoryCall } from '../commands/history.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [variable], options, world }: HistoryCall): Promise<number> {
  const project = openProject(world, options.contract);
  const stage = options.stage === undefined ? undefined : stageOf(project, options.stage).name;
  const history = projectHistory(project, allStages(project, world));
  const values = history.values.filter(
    (one) => (variable === undefined || one.variable === variable) && (stage === undefined || one.stage === stage),
  );
  // A variable that the contract no longer has may still have entries.
  if (variable !== undefined && !history.values.some((one) => one.variable === variable)) variableOf(project, variable);
  const served = Object.entries(servedBuilds(project));
  const builds = new LastBuilds(project).all.map(({ bundle, stored: { receipt } }) => {
    const { builtAt } = receipt.predicate;
    const [url] = served.find(([, one]) => one.bundle === bundle.name && one.builtAt === builtAt) ?? [];
    return { receipt, ...(url !== undefined && { servedAt: url }) };
  });
  const { state, closed } = history;
  const [hidden] = hiddenHistory(project);
  const about = {
    ...(variable !== undefined && { variable }),
    ...{
      state,
      closed,
      today: today(world),
      ...(hidden !== undefined && { hidden }),
      unread: unreadEntries(project, history).map(({ path, because }) => ({ path, because })),
    },
  };
  return printReport(historyReport(about, values, builds), options, world, { project });
}
