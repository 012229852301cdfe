import type { Contract } from '../contract/contract.js';
import { stageOfWord } from '../files/value-files.js';
import { finding, type RawFinding } from '../findings/finding.js';
import type { WorkspaceApplication } from '../toolchains/toolchain.js';

/** A build command for a stage, with the application of the workspace that it builds. */
export interface ConfiguredBuild {
  contract: Contract;
  stage: string;
  bundle: string;
  /** The lines that the command runs. */
  lines: readonly string[];
  application: WorkspaceApplication;
}

/**
 * Finds a command that builds the configuration of another stage: its values are in files that the tool exchanges, so those that
 * the environment has change nothing. Nothing is known of a configuration that is named like no stage, or exchanges no file.
 */
export function otherConfiguration({ contract, stage, bundle, lines, application }: ConfiguredBuild): RawFinding[] {
  const stageOf = (configuration: string) =>
    [configuration, stageOfWord(configuration)].find((name) => name !== undefined && contract.stages.has(name));
  const exchanging = [...new Set(application.replacements.map(({ configuration }) => configuration))];
  const filled = lines.map((line) => line.replaceAll('{stage}', stage));
  const built = builtBy(filled, application.usual).filter((one) => exchanging.includes(one));
  const wrong = built.find((one) => stageOf(one) !== undefined && stageOf(one) !== stage);
  if (wrong === undefined || built.some((one) => stageOf(one) === stage)) return [];
  const right = application.configurations.find((one) => stageOf(one) === stage);
  const about = { configuration: wrong, application: application.name, of: stageOf(wrong) ?? '', stage, right };
  return [finding('repo/workspace', 'built', about, { level: 'error', bundle })];
}

/** The configurations that a line builds: those of its option, or else the usual one. */
function builtBy(lines: readonly string[], usual: string | undefined): string[] {
  const line = lines.flatMap((one) => one.split(/&&|\|\||[;|]/)).find((one) => /\bng\s+(b|build)\b/.test(one));
  if (line === undefined) return [];
  const [, named] = /\s(?:--configuration|-c)[\s=]+["']?([\w,.-]+)/.exec(line) ?? [];
  return named === undefined ? (usual === undefined ? [] : [usual]) : named.split(',');
}
