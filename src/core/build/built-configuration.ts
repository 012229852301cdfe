import type { Contract } from '../contract/contract.js';
import { stageNamed } from '../files/value-files.js';
import { finding, type RawFinding } from '../findings/finding.js';
import type { Workspace, WorkspaceApplication } from '../toolchains/toolchain.js';
import { optionIn, wordsOfProgram } from './command-output.js';

/** A build command for a stage, with the application of the workspace that it builds. */
export interface ConfiguredBuild {
  contract: Contract;
  stage: string;
  bundle: string;
  /** The lines that the command runs. */
  lines: readonly string[];
  workspace: Workspace;
  application: WorkspaceApplication;
}

/**
 * Finds a command that builds the configuration of another stage: its values are in files that the tool exchanges, so those that
 * the environment has change nothing. Nothing is known of a configuration that is named like no stage, or exchanges no file.
 */
export function otherConfiguration({
  contract,
  stage,
  bundle,
  lines,
  workspace,
  application,
}: ConfiguredBuild): RawFinding[] {
  const stageOf = (configuration: string) => stageNamed(configuration, contract.stages);
  const exchanging = [...new Set(application.replacements.map(({ configuration }) => configuration))];
  const filled = lines.map((line) => line.replaceAll('{stage}', stage));
  const built = builtBy(filled, workspace, application.usual).filter((one) => exchanging.includes(one));
  const wrong = built.find((one) => stageOf(one) !== undefined && stageOf(one) !== stage);
  if (wrong === undefined || built.some((one) => stageOf(one) === stage)) return [];
  const right = application.configurations.find((one) => stageOf(one) === stage);
  const about = { configuration: wrong, application: application.name, of: stageOf(wrong) ?? '', stage, right };
  return [finding('repo/workspace', 'built', about, { level: 'error', bundle })];
}

/** The configurations that a command builds: those of its option, or else the usual one. */
function builtBy(lines: readonly string[], { command }: Workspace, usual: string | undefined): string[] {
  const words = wordsOfProgram(lines, command.builds);
  const named = words && (optionIn(words, command.configuration) ?? usual);
  return named?.split(',') ?? [];
}
