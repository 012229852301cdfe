import type { Bundle } from '../../core/contract/contract.js';
import { rulesOf } from '../../core/contract/rules.js';
import { type Code, codes } from '../../core/findings/codes.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import type { RawFinding } from '../../core/findings/finding.js';
import { diffOf, editedBytes, type FixedFile, fixedFiles } from '../../core/lint/fix.js';
import type { LintContext } from '../../core/lint/model.js';
import { findingsReport } from '../../core/report/findings.js';
import { count } from '../../core/text/display.js';
import { echoed, suggest } from '../../core/text/nearest.js';
import { catalogue } from '../../core/words/catalogue.js';
import { Repository } from '../../host/version-control.js';
import { today, type World } from '../../host/world.js';
import { checkCode } from '../../project/lint.js';
import { bundleOf, openProject, type Project } from '../../project/open.js';
import { checkRepository } from '../../project/repository.js';
import type { LintCall } from '../commands/lint.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ options, world }: LintCall): Promise<number> {
  if (options.explain !== undefined) return explain(options.explain, world);
  const project = openProject(world, options.contract);
  const { bundle, since } = options;
  const bundles = bundle === undefined ? [...project.contract.bundles.values()] : [bundleOf(project, bundle)];
  const changed = since === undefined ? undefined : filesSince(since, project);
  const isInScope = ({ place }: RawFinding) => !changed || place === undefined || changed.has(place.path);
  let check = await checkCode(project, { bundles }, world);
  if (options.fix) {
    const fixed = fixedFiles(check.fixable.filter(isInScope), (path) => check.code.files.get(path)?.text);
    if (options['dry-run']) return dryRun(fixed, check.code.context, world);
    for (const file of fixed) applyTo(project, file);
    if (fixed.length > 0) {
      sayFixed(fixed, 'fixed', world);
      check = await checkCode(project, { bundles }, world);
    }
  }
  const checked = options.trial
    ? { ...check, findings: await withTrials(project, bundles, check.findings, world) }
    : check;
  const checks = [checked, await checkRepository(project, check, world)];
  const isAll = bundle === undefined && since === undefined;
  const inScope = checks.map((one) => ({
    ...one,
    findings: one.findings.filter(isInScope),
    groups: isAll ? one.groups : [],
  }));
  const report = findingsReport({ command: 'lint' }, inScope, rulesOf(project.contract), today(world));
  return printReport(report, options, world, { project });
}

/** Findings as the last trials of the bundles change them. */
async function withTrials(project: Project, bundles: readonly Bundle[], findings: readonly RawFinding[], world: World) {
  const [{ currentTrials }, { againstTrials }] = await Promise.all([
    import('../../project/trial-kept.js'),
    import('../../core/trial/against-lint.js'),
  ]);
  return againstTrials(findings, currentTrials(project, bundles, world));
}

function filesSince(revision: string, { root }: Project): Set<string> {
  const repository = Repository.at(root);
  if (repository) return repository.changedSince(revision);
  throw new Failure('--since needs a git repository, and there is none here', 'remove --since');
}

function explain(code: string, world: World): number {
  const entry = codes[code as Code];
  if (!entry) {
    const known = Object.keys(codes);
    throw new Failure(['unknown code', echoed(code, known)].filter(Boolean).join(' '), suggest(code, known));
  }
  const { meaning, help } = catalogue[code as Code];
  world.stdout.write(`${code} (${entry.level}): ${meaning}\n\n${help}\n`);
  return EXIT.fine;
}

/** Bytes outside the edits keep their encoding. */
function applyTo({ files, root }: Project, file: FixedFile): void {
  const path = files.path.join(root, file.path);
  files.write(path, editedBytes(files.read(path), file), { root });
}

function dryRun(fixed: readonly FixedFile[], { mask }: LintContext, world: World): number {
  for (const file of fixed) world.stdout.write(diffOf({ ...file, before: mask(file.before), after: mask(file.after) }));
  sayFixed(fixed, 'would be fixed', world);
  return EXIT.fine;
}

function sayFixed(fixed: readonly FixedFile[], what: string, world: World): void {
  const edits = fixed.reduce((sum, one) => sum + one.edits.length, 0);
  world.stderr.write(`adder: ${count(edits, 'place')} in ${count(fixed.length, 'file')} ${what}\n`);
}
