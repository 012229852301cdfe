import { parseContract } from '../../core/contract/parse.js';
import { type Draft, draft } from '../../core/draft/draft.js';
import { InlineSection, mergedText, newIn, unlisted } from '../../core/draft/merge.js';
import { contractText } from '../../core/draft/write.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { draftReport } from '../../core/report/draft.js';
import { today, type World } from '../../host/world.js';
import { gatherMaterial } from '../../project/draft.js';
import { CONTRACT_NAME, openProject } from '../../project/open.js';
import type { DraftCall } from '../commands/draft.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ options, world }: DraftCall): Promise<number> {
  return options.merge ? merge(options, world) : write(options, world);
}

type Options = DraftCall['options'];

async function write(options: Options, world: World): Promise<number> {
  const { files } = world;
  const { dirname, relative, resolve } = files.path;
  const path = resolve(world.cwd, options.contract ?? CONTRACT_NAME);
  const shown = relative(world.cwd, path);
  if (files.exists(path) && !options['dry-run'])
    throw new Failure(`${shown} already exists`, 'run `adder draft --merge` to add what is new to it');
  const material = gatherMaterial(files, dirname(path));
  const drafted = draft(material);
  const hasNothing = material.files.length === 0 && material.packages.length === 0;
  if (drafted.variables.length === 0 && drafted.bundles.length === 0 && hasNothing)
    throw new Failure(
      'this directory has no env file, no package manifest and no code that reads the environment',
      "change into the project's directory and run `adder draft` there",
    );
  const text = contractText(drafted);
  assertValid(text, shown);
  return finish(text, drafted, { path, shown }, options, world);
}

async function merge(options: Options, world: World): Promise<number> {
  const project = openProject(world, options.contract);
  const { contract, root, contractPath, files } = project;
  const all = draft(gatherMaterial(files, root));
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
  drafted: Draft,
  { path, shown }: { path: string; shown: string },
  options: Options,
  world: World,
): Promise<number> {
  if (options['dry-run']) return dryRun(text, world);
  world.files.write(path, text, { root: world.files.path.dirname(path) });
  return printReport(draftReport(drafted, { contract: shown, written: true }, today(world)), options, world);
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
