import { kindOfCommand } from '../../core/build/command.js';
import { EXIT } from '../../core/findings/failure.js';
import { withoutToken } from '../../core/mask/error-text.js';
import { findingLines } from '../../core/report/text-findings.js';
import { count } from '../../core/text/display.js';
import { someWords } from '../../core/text/nearest.js';
import type { World } from '../../host/world.js';
import type { BuildOutcome } from '../../project/build.js';
import { inspect } from '../../project/inspect.js';
import type { Project } from '../../project/open.js';
import type { PreparedBuild } from '../../project/preflight.js';
import { ReceiptCopy } from '../../project/receipt-copy.js';
import { shownCommand } from '../../project/record.js';
import type { WithCall } from '../commands/with.js';
import { printInspection, printReport } from '../print.js';
import { printOptions } from '../print-options.js';

export type WithOptions = WithCall['options'];

/** Inspects the output of a build. @returns the exit code of the inspection */
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

/** The file that `--receipt` names for a bundle. */
export function receiptCopy(
  { bundle }: PreparedBuild,
  { receipt }: WithOptions,
  { files }: Project,
  { cwd }: World,
): ReceiptCopy | undefined {
  if (receipt === undefined) return undefined;
  const named = receipt.replaceAll('{bundle}', bundle?.name ?? 'none');
  return new ReceiptCopy(files.path.resolve(cwd, named), named);
}

/** Prints why a build does not start. @returns the exit code */
export async function refuse(
  project: Project,
  prepared: PreparedBuild,
  command: readonly string[],
  options: WithOptions,
  world: World,
): Promise<number> {
  const code = await printReport(prepared.report, options, world, { project });
  const words = shownCommand(prepared, command).map(withoutToken);
  world.stderr.write(`adder: not built: ${words.join(' ')}\n`);
  return code === EXIT.fine ? EXIT.findings : code;
}

/** Reports what matters before the command runs: findings, and values that no mask can hide in its output. */
export function reportPreflight(prepared: PreparedBuild, options: WithOptions, world: World): void {
  const { report } = prepared;
  const settings = printOptions(options, world.stderr, world.env);
  for (const line of findingLines(report.findings, settings)) world.stderr.write(`${line}\n`);
  reportUnmasked(prepared, options, world);
}

/** A dev server that reloads env files itself does not change values that the environment sets. */
export function reportServer(command: readonly string[], options: WithOptions, world: World): void {
  if (options.quiet || kindOfCommand(command) !== 'dev server') return;
  const { style } = printOptions(options, world.stderr, world.env);
  const message = 'adder: values stay the same while this runs; use --restart, or the plugin, to get changes';
  world.stderr.write(`${style.dim(message)}\n`);
}

/** Reported once per process, because bundles share their values. */
const namedUnmasked = new Set<string>();

const MOST_UNMASKED = 5;

function reportUnmasked({ mask: { unmasked } }: PreparedBuild, options: WithOptions, world: World): void {
  const names = unmasked.filter((name) => !namedUnmasked.has(name));
  for (const name of names) namedUnmasked.add(name);
  if (names.length === 0 || options.quiet) return;
  const { style } = printOptions(options, world.stderr, world.env);
  const list = someWords(names, MOST_UNMASKED);
  world.stderr.write(style.dim(`adder: not masked in the output, because too short or too common: ${list}\n`));
}

/** How the command ended, and where its receipt is. */
export function ending({ receiptPath, withoutReceipt, files = 0, signal, code }: BuildOutcome): string {
  if (receiptPath) return `adder: built ${count(files, 'file')}; receipt: ${receiptPath}`;
  const how = signal ? `ended by ${signal}` : `exited with code ${code}`;
  return `adder: the command ${how}; no receipt: ${withoutReceipt}`;
}
