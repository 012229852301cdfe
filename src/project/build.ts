import { childEnvironment } from '../core/build/environment.js';
import { DEFINES, defines, definesPath } from '../core/emit/defines.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import type { ChildCommand, ChildResult } from '../host/child.js';
import { assertStateIsUsable, ensureKey } from '../host/state.js';
import { Repository } from '../host/version-control.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';
import type { PreparedBuild } from './preflight.js';
import type { ReceiptCopy } from './receipt-copy.js';
import { recordBuild, shownCommand, stampsOf } from './record.js';
import { recordValues } from './recording.js';

/** How a build ended, and its record. */
export interface BuildOutcome extends ChildResult {
  receiptPath?: string;
  /** Why there is no receipt. */
  withoutReceipt?: string;
  files?: number;
}

/** Runs the command, and after a build that succeeded writes the receipt. */
export async function runBuild(
  project: Project,
  prepared: PreparedBuild,
  command: readonly string[],
  world: World,
  { receipt: copy, ...how }: Pick<ChildCommand, 'stop' | 'output'> & { receipt?: ReceiptCopy | undefined } = {},
): Promise<BuildOutcome> {
  const { stage, bundle, given, mask } = prepared;
  copy?.assertUsable(project, bundle);
  const [program = '', ...args] = await filledIn(project, prepared, command);
  if (program === '') throw new Failure('the command is empty', 'write a command after --, such as: -- npm run build');
  // Report before the build what would prevent the receipt.
  if (bundle && bundle.output.length > 0) assertStateIsUsable(project, bundle.name);
  const started = Date.now();
  const before = await stampsOf(project, bundle);
  // Before the build, because its output may be tracked.
  const revision = bundle && bundle.output.length > 0 ? Repository.at(project.root)?.revision() : undefined;
  const entries = recordValues(project, [prepared.resolution], world, true);
  const env = childEnvironment(world.env, project.contract, stage, given, bundle);
  const result = await world.processes.run({ command: program, args, env, cwd: world.cwd, mask, ...how }, world);
  if (result.failedToStart)
    throw notStarted(shownCommand(prepared, [program]).join(' '), result.failedToStart, result.code);
  if (result.code !== EXIT.fine) return { ...result, withoutReceipt: 'the command failed' };
  try {
    const record = await recordBuild(project, prepared, { command, started, before, revision, entries }, world);
    copy?.write(project, record);
    return { ...result, ...record };
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    throw new Failure(
      `the build succeeded, but its receipt was not written: ${error.message}`,
      error.remedy,
      error.exitCode,
    );
  }
}

/** The exit code that shells use. */
const COMMAND_NOT_FOUND = 127;

/** @param program as it may be shown @param because a phrase after its name */
export function notStarted(program: string, because: string, code: number): Failure {
  const remedy = code === COMMAND_NOT_FOUND ? 'check its name and PATH' : 'check the command';
  return new Failure(`the command "${program}" ${because}`, remedy, code);
}

/** Neither the command line nor the bundle says what to run. @param command of Adder */
export function noCommand(command: string, stage: string): Failure {
  return new Failure(
    'no build command',
    `write it after --, such as \`adder ${command} ${stage} -- npm run build\`, or add \`build\` to the bundle in the contract`,
  );
}

const STAGE = '{stage}';

async function filledIn(
  project: Project,
  { bundle, resolution }: PreparedBuild,
  command: readonly string[],
): Promise<string[]> {
  const { contract, root, files } = project;
  const words = command.map((word) => word.replaceAll(STAGE, resolution.stage.name));
  if (!bundle || !words.some((word) => word.includes(DEFINES))) return words;
  const path = files.path.join(root, definesPath(bundle.name, resolution.stage.name));
  ensureKey(project);
  files.write(path, defines.emit({ contract, bundle, resolution, withBuild: false, call: '' }), { root });
  return words.map((word) => word.replaceAll(DEFINES, path));
}
