import { parseContract } from '../../core/contract/parse.js';
import { type Draft, draft } from '../../core/draft/draft.js';
import type { Material } from '../../core/draft/material.js';
import { InlineSection, mergedText, newIn, unlisted } from '../../core/draft/merge.js';
import { contractText } from '../../core/draft/write.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { draftReport } from '../../core/report/draft.js';
import { today, type World } from '../../host/world.js';
import { gatherMaterial } from '../../project/draft.js';
import { CONTRACT_NAME, openProject, type Project } from '../../project/open.js';
import type { DraftCall } from '../commands/draft.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ options, rest, world }: DraftCall): Promise<number> {
  if (rest.length > 0 && !options.trial)
    throw new Failure('only a trial runs a command', 'add --trial, or remove `--` and what follows');
  const all = { ...options, command: rest };
  return options.merge ? merge(all, world) : write(all, world);
}

type Options = DraftCall['options'] & {
  /** The words of the command that builds. */
  command: readonly string[];
};

/** A draft, by evidence if the user wants a trial. */
async function drafted(
  material: Material,
  at: Omit<Project, 'contract'>,
  options: Options,
  world: World,
): Promise<Draft> {
  const guess = draft(material);
  if (!options.trial) return guess;
  const { seenBuilds } = await import('../../project/draft-trial.js');
  return draft(material, await seenBuilds(guess, at, { ...options, log: world.stderr.stream() }, world));
}

async function write(options: Options, world: World): Promise<number> {
  const { files } = world;
  const { dirname, relative, resolve } = files.path;
  const path = resolve(world.cwd, options.contract ?? CONTRACT_NAME);
  const shown = relative(world.cwd, path);
  if (files.exists(path) && !options['dry-run'])
    throw new Failure(`${shown} already exists`, 'run `adder draft --merge` to add what is new to it');
  const material = gatherMaterial(files, dirname(path));
  const hasNothing = material.files.length === 0 && material.packages.length === 0;
  const root = dirname(path);
  const found = hasNothing
    ? draft(material)
    : await drafted(material, { root, contractPath: path, files }, options, world);
  if (found.variables.length === 0 && found.bundles.length === 0 && hasNothing)
    throw new Failure(
      'this directory has no env file, no package manifest and no code that reads the environment',
      "change into the project's directory and run `adder draft` there",
    );
  const text = contractText(found);
  assertValid(text, shown);
  return finish(text, found, { path, shown }, options, world);
}

async function merge(options: Options, world: World): Promise<number> {
  const project = openProject(world, options.contract);
  const { contract, root, contractPath, files } = project;
  const all = await drafted(gatherMaterial(files, root), project, options, world);
  const additions = newIn(all, contract);
  const shown = files.path.relative(world.cwd, contractPath);
  const before = files.read(contractPath).toString();
  const text = withAdditions(before, additions, shown);
  assertValid(text, shown);
  const report = draftReport(
    additions,
    { contract: shown, written: !options['dry-run'], mergedInto: contract },
    today(world),
    unlisted(all, contract),
  );
  if (options['dry-run']) return dryRun(text, world);
  if (text !== before)
    files.change(contractPath, { root }, () => {
      if (files.read(contractPath).toString() === before) return text;
      throw new Failure(`${shown} changed while it was merged; nothing was written`, 'run the command again');
    });
  return printReport(report, options, world, { project });
}

function withAdditions(text: string, additions: Draft, shown: string): string {
  try {
    return mergedText(text, additions);
  } catch (error) {
    if (!(error instanceof InlineSection)) throw error;
    throw new Failure(
      `${error.section} in ${shown} is written on one line, { ... }, so entries cannot be added; nothing was written`,
      `put each entry of ${error.section} on its own line`,
    );
  }
}

async function finish(
  text: string,
  found: Draft,
  { path, shown }: { path: string; shown: string },
  options: Options,
  world: World,
): Promise<number> {
  if (options['dry-run']) return dryRun(text, world);
  world.files.write(path, text, { root: world.files.path.dirname(path) });
  return printReport(draftReport(found, { contract: shown, written: true }, today(world)), options, world);
}

function dryRun(text: string, world: World): number {
  world.stdout.write(text);
  return EXIT.fine;
}

/** Adder can read every contract that it writes; anything else is a defect, and must not reach the disk. */
function assertValid(text: string, path: string): void {
  const [finding] = parseContract(text, path).findings;
  if (finding) throw new Error(`the draft is not a contract: ${finding.code}, ${finding.variant}`);
}
