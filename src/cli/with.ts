import { environmentNames } from '../core/build/environment.js';
import { EXIT, Failure } from '../core/failure.js';
import { jsonText } from '../core/report/json.js';
import { printEnvironment } from '../core/report/text-environment.js';
import { findingLines } from '../core/report/text-findings.js';
import { count } from '../core/text/display.js';
import type { World } from '../host/world.js';
import { type BuildOutcome, type PreparedBuild, prepareBuild, runBuild, shownCommand } from '../project/build.js';
import { inspect } from '../project/inspect.js';
import { openProject, type Project } from '../project/open.js';
import { defineCommand } from './command.js';
import { type OptionValues, reportOptions } from './options.js';
import { printInspection, printOptions, printReport } from './print.js';

export const withValues = defineCommand({
  name: 'with',
  words: 'STAGE [-- COMMAND...]',
  arity: [0, 1],
  takesRest: true,
  about:
    'Runs a build with exactly the values that its bundle may have, and nothing else of this environment. Refuses when one is missing or malformed. Masks build and server values in the output, and writes a receipt of what was built. Without a command: the one that the contract has for the bundle, build.',
  meanings: {
    bundle: 'The bundle that is built; default: the only one of the contract',
    all: 'Build every bundle that has a build command in the contract',
    save: 'Write the report there, where the build is refused or --inspect looks into it',
    'fail-on': 'With --inspect: the least level that makes the exit code 1',
    format: 'How to print a refusal, --show-env or --inspect',
  },
  options: [...reportOptions, 'bundle', 'all', 'at-once', 'show-env', 'inspect', 'restart', 'color', 'debug'],
  examples: [
    ['adder with production -- npm run build', 'build the only bundle of the contract'],
    ['adder with staging --bundle ticket-desk -- npx vite build', 'one of several'],
    ['adder with production --all --at-once 4', 'every bundle that has a build command in the contract'],
    ['adder with production --inspect -- npm run build', 'and look into what came out'],
    ['adder with development --restart -- npm run dev', 'again after each change of a value'],
    ['adder with production --show-env', 'which names the build would get, and why'],
  ],
  async run({ words: [stage], rest, options, world }) {
    const project = openProject(world.cwd, options.contract);
    if (stage === undefined)
      throw new Failure('no stage was named', `adder with ${[...project.contract.stages.keys()].join('|')} -- COMMAND`);
    if (options.all) {
      const { buildAll } = await import('./with-all.js');
      return buildAll(project, stage, rest, options, world);
    }
    if (options['at-once'] > 1) throw new Failure('--at-once is for several bundles', 'say --all too');
    const prepared = prepareBuild(project, { stage, bundle: options.bundle }, world);
    if (options['show-env']) return showEnvironment(project, prepared, options, world);
    const command = rest.length > 0 ? rest : prepared.bundle?.build;
    if (!command)
      throw new Failure(
        'no command was given',
        `put it behind --, as in: adder with ${stage} -- npm run build; or into the contract, as build of the bundle`,
      );
    if (options.restart) {
      const { runAgain } = await import('./with-restart.js');
      return runAgain({ project, prepared }, { command, options, world });
    }
    return build(project, prepared, command, options, world);
  },
});

export type WithOptions = OptionValues<(typeof reportOptions)[number] | 'inspect' | 'color' | 'bundle' | 'at-once'>;

/** Runs one command with what was prepared for it. @returns the exit code */
async function build(
  project: Project,
  prepared: PreparedBuild,
  command: readonly string[],
  options: WithOptions,
  world: World,
): Promise<number> {
  if (prepared.refused) return refuse(project, prepared, command, options, world);
  sayFindings(project, prepared, options, world);
  const outcome = await runBuild(project, prepared, command, world);
  const { style } = printOptions(options, world.stderr, world.env, project.contract);
  if (!options.quiet) world.stderr.write(`${style.dim(ending(outcome))}\n`);
  return outcome.code === EXIT.fine && options.inspect ? inspectBuild(project, prepared, options, world) : outcome.code;
}

/** Looks into what was just built. @returns the exit code of the inspection */
export async function inspectBuild(
  project: Project,
  { stage, bundle }: PreparedBuild,
  options: WithOptions,
  world: World,
): Promise<number> {
  if (!bundle) return EXIT.fine;
  const inspected = await inspect(project, { paths: [], stage: stage.name, bundle: bundle.name }, world);
  return printInspection(inspected, options, world, project);
}

export async function refuse(
  project: Project,
  prepared: PreparedBuild,
  command: readonly string[],
  options: WithOptions,
  world: World,
): Promise<number> {
  const code = await printReport(prepared.report, options, world, { project });
  world.stderr.write(`adder: not built: ${shownCommand(prepared, command).join(' ')}\n`);
  return code === EXIT.fine ? EXIT.findings : code;
}

/** Says what is to be known before the command runs: findings, and values that no mask can hide in its output. */
export function sayFindings(project: Project, prepared: PreparedBuild, options: WithOptions, world: World): void {
  const { report } = prepared;
  const settings = printOptions(options, world.stderr, world.env, project.contract);
  for (const line of findingLines(report.findings, settings)) world.stderr.write(`${line}\n`);
  sayUnmasked(prepared, options, world);
}

/** Reported once per process, because bundles share their values. */
const reportedUnmasked = new Set<string>();

const MOST_UNMASKED = 5;

function sayUnmasked({ mask: { unmasked } }: PreparedBuild, options: WithOptions, world: World): void {
  const names = unmasked.filter((name) => !reportedUnmasked.has(name));
  for (const name of names) reportedUnmasked.add(name);
  if (names.length === 0 || options.quiet) return;
  const { style } = printOptions(options, world.stderr, world.env);
  const rest = names.length > MOST_UNMASKED ? ` and ${names.length - MOST_UNMASKED} more` : '';
  const list = names.slice(0, MOST_UNMASKED).join(', ');
  world.stderr.write(style.dim(`adder: not masked in the output, too short or too ordinary: ${list}${rest}\n`));
}

function showEnvironment(
  project: Project,
  { stage, given, bundle, readByTool }: PreparedBuild,
  options: WithOptions,
  world: World,
): number {
  const names = {
    ...environmentNames(world.env, project.contract, stage, given, bundle),
    ...(readByTool.length > 0 && { readByTool }),
  };
  world.stdout.write(
    options.format === 'json'
      ? jsonText({ report: 1, command: 'with', stage: stage.name, ...(bundle && { bundle: bundle.name }), ...names })
      : printEnvironment(
          names,
          [stage.name, ...(bundle ? [bundle.name] : [])],
          printOptions(options, world.stdout, world.env, project.contract),
        ),
  );
  return EXIT.fine;
}

export function ending({ receiptPath, withoutReceipt, files = 0, signal, code }: BuildOutcome): string {
  if (receiptPath) return `adder: ${count(files, 'file')} built; receipt: ${receiptPath}`;
  const how = signal ? `ended by ${signal}` : `gave back ${code}`;
  return `adder: the command ${how}; no receipt: ${withoutReceipt}`;
}
