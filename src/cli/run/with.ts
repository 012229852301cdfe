import { environmentNames } from '../../core/build/environment.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { REPORT_VERSION } from '../../core/report/version.js';
import type { World } from '../../host/world.js';
import { noCommand, runBuild } from '../../project/build.js';
import { openProject, type Project } from '../../project/open.js';
import { type PreparedBuild, prepareBuild } from '../../project/preflight.js';
import type { WithCall } from '../commands/with.js';
import { printReport } from '../print.js';
import { printOptions } from '../print-options.js';
import {
  ending,
  inspectBuild,
  receiptCopy,
  refuse,
  reportPreflight,
  reportServer,
  type WithOptions,
} from './with-steps.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [stage], rest, options, world }: WithCall): Promise<number> {
  const project = openProject(world, options.contract);
  if (stage === undefined)
    throw new Failure(
      'adder with needs a stage',
      `usage: adder with ${[...project.contract.stages.keys()].join('|')} -- COMMAND`,
    );
  if (options.all) {
    const { buildAll } = await import('./with-all.js');
    return buildAll(project, stage, rest, options, world);
  }
  if (options.parallel > 1) throw new Failure('--parallel is for several bundles', 'add --all, or remove --parallel');
  const prepared = prepareBuild(
    project,
    { stage, bundle: options.bundle, ...(rest.length > 0 && { command: rest }) },
    world,
  );
  if (options['show-env']) return showEnvironment(project, prepared, options, world);
  const command = rest.length > 0 ? rest : prepared.bundle?.build;
  if (!command) throw noCommand('with', stage);
  if (options.restart && options.receipt !== undefined)
    throw new Failure('--receipt is for one build, and --restart starts several', 'remove one of the two');
  if (options.restart) {
    const { runAgain } = await import('./with-restart.js');
    return runAgain({ project, prepared }, { command, options, world });
  }
  return build(project, prepared, command, options, world);
}

/** Runs one command with what was prepared for it. @returns the exit code */
async function build(
  project: Project,
  prepared: PreparedBuild,
  command: readonly string[],
  options: WithOptions,
  world: World,
): Promise<number> {
  if (prepared.refused) return refuse(project, prepared, command, options, world);
  reportPreflight(prepared, options, world);
  reportServer(command, options, world);
  const receipt = receiptCopy(prepared, options, project, world);
  const outcome = await runBuild(project, prepared, command, world, { receipt });
  const { style } = printOptions(options, world.stderr, world.env);
  if (!options.quiet) world.stderr.write(`${style.dim(ending(outcome))}\n`);
  return outcome.code === EXIT.fine && options.inspect ? inspectBuild(project, prepared, options, world) : outcome.code;
}

function showEnvironment(
  project: Project,
  { stage, given, bundle, readByTool, report: { findings, summary } }: PreparedBuild,
  options: WithOptions,
  world: World,
): Promise<number> {
  const names = {
    ...environmentNames(world.env, project.contract, stage, given, bundle),
    ...(readByTool.length > 0 && { readByTool: [...readByTool] }),
    findings,
    summary,
  };
  const of = { command: 'with', stage: stage.name, ...(bundle && { bundle: bundle.name }) } as const;
  return printReport({ report: REPORT_VERSION, kind: 'environment', ...of, ...names }, options, world, { project });
}
