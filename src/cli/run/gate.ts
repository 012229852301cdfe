import { rulesOf } from '../../core/contract/rules.js';
import { within } from '../../core/files/within.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { gateReport } from '../../core/report/gate.js';
import { today } from '../../host/world.js';
import { checkAll } from '../../project/gate.js';
import { keepGate } from '../../project/gate-kept.js';
import { openProject, stageOf, withReceipts } from '../../project/open.js';
import type { GateCall } from '../commands/gate.js';
import { needsContents, printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [name = ''], options, world }: GateCall): Promise<number> {
  const project = withReceipts(openProject(world, options.contract), options.receipts, world);
  const stage = stageOf(project, name);
  if (options.build !== undefined && !options.probe)
    throw new Failure('--build says which build sites should serve', 'add --probe, or remove --build');
  const { caches, packages, threads, probe, trial } = options;
  const { parts, trials, isStopped } = await checkAll(
    project,
    {
      stage: stage.name,
      caches,
      packages,
      ...{ probe, build: options.build, trial, log: world.stderr.stream() },
      allowsWithoutValue: options['allow-incomplete'],
      contents: needsContents(options),
      ...(threads !== undefined && { threads }),
    },
    world,
  );
  const bundles = [...project.contract.bundles.values()].flatMap(({ name: bundle, output }) =>
    output.length > 0 ? { name: bundle, hasOutput: within(output) } : [],
  );
  const report = gateReport(stage.name, parts, bundles, rulesOf(project.contract), today(world), trials);
  const code = await printReport(report, options, world, { project });
  if (!isStopped) keepGate(project, report, code, world.now());
  return isStopped ? EXIT.interrupted : code;
}
