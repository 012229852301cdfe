import { rulesOf } from '../../core/contract/rules.js';
import { trialReport } from '../../core/report/trial.js';
import { today } from '../../host/world.js';
import { openProject, variableOf } from '../../project/open.js';
import { trialAtHand } from '../../project/trial-kept.js';
import type { TrialCall } from '../commands/trial.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [stage = ''], rest, options, world }: TrialCall): Promise<number> {
  const project = openProject(world, options.contract);
  const real = options.real.map((name) => variableOf(project, name).name);
  const command = rest.length > 0 ? rest : undefined;
  const request = {
    stage,
    bundle: options.bundle,
    command,
    real,
    twice: options.twice,
    inPlace: options['in-place'],
    log: world.stderr.stream(),
  };
  const result = await trialAtHand(project, request, world, options.again);
  if (options['in-place'])
    world.stderr.write('adder: the output has made-up values now; build it again before it ships\n');
  const report = trialReport(result, rulesOf(project.contract), today(world));
  return printReport(report, options, world, { project });
}
