import type { Bundle, Stage } from '../../core/contract/contract.js';
import { scopeWith } from '../../core/contract/scopes.js';
import type { Since } from '../../core/findings/change.js';
import { Failure } from '../../core/findings/failure.js';
import { allValuesReport, valuesReport } from '../../core/report/values.js';
import { reveal } from '../../core/secrets/secret.js';
import { today, type World } from '../../host/world.js';
import { STATE_FOLDER } from '../../host/write.js';
import { bundleOf, openProject, type Project, stageOf, variableOf } from '../../project/open.js';
import { checkValues, type ValuesCheck } from '../../project/values.js';
import type { ValuesCall } from '../commands/values.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [stageName, ...only], options, world }: ValuesCall): Promise<number> {
  const project = openProject(world, options.contract);
  const { contract } = project;
  const stage = options.all ? none(stageName) : asked(project, stageName);
  const bundle = options.bundle === undefined ? undefined : bundleOf(project, options.bundle);
  for (const name of [...only, ...options.reveal]) variableOf(project, name);
  const check = checkValues(project, { stage: stage?.name, bundle }, world);
  letThrough(check, options.reveal, world);
  const shown = { today: today(world), revealed: options.reveal };
  const since = stage ? await sinceBuilds(project, stage.name, check, bundle) : [];
  const report = stage
    ? valuesReport(contract, check.parts, check, { ...shown, bundle: bundle?.name, only, since })
    : allValuesReport(contract, check.parts, check, shown);
  return printReport(report, options, world, { project, isSecret: options.reveal.length > 0 });
}

/** The code for receipts is loaded only if there are any. */
async function sinceBuilds(
  project: Project,
  stage: string,
  { parts }: ValuesCheck,
  only: Bundle | undefined,
): Promise<readonly Since[]> {
  const { files, root } = project;
  if (!files.exists(files.path.join(root, STATE_FOLDER, 'receipts'))) return [];
  const { changesSinceBuilds } = await import('../../project/changes.js');
  const { LastBuilds } = await import('../../project/last-build.js');
  const scopes = parts.map(({ scope }) => scope);
  return changesSinceBuilds(new LastBuilds(project), stage, (bundle) => {
    if (only && only.name !== bundle.name) return undefined;
    const scope = scopeWith(scopes, bundle);
    return parts.find((part) => part.scope === scope)?.resolutions[0];
  });
}

function asked(project: Project, name: string | undefined): Stage {
  if (name !== undefined) return stageOf(project, name);
  const stages = [...project.contract.stages.keys()];
  throw new Failure('adder values needs a stage', `usage: adder values ${stages.join('|')}`);
}

/** With --all, no stage is named. */
function none(name: string | undefined): undefined {
  if (name === undefined) return;
  throw new Failure(`--all shows every stage, and "${name}" was given too`, 'remove one of the two');
}

/** Lets values through that the user asked for by name. */
function letThrough({ parts }: ValuesCheck, names: readonly string[], world: World): void {
  for (const { values } of parts.flatMap(({ resolutions }) => resolutions))
    for (const name of names) {
      const { value } = values.get(name) ?? {};
      if (value) world.outlet.reveal(reveal(value));
    }
}
