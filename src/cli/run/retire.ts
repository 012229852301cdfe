import { EXIT, Failure } from '../../core/findings/failure.js';
import { LONGEST_REASON } from '../../core/history/entry.js';
import { count } from '../../core/text/display.js';
import { STATE_FOLDER } from '../../host/state.js';
import { hiddenHistory } from '../../project/history.js';
import { openProject, stageOf, variableOf } from '../../project/open.js';
import { retireValues } from '../../project/recording.js';
import { allStages, stageInAllScopes } from '../../project/resolve.js';
import type { RetireCall } from '../commands/retire.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [name = ''], options, world }: RetireCall): Promise<number> {
  const project = openProject(world, options.contract);
  const { name: variable } = variableOf(project, name);
  const { because: reason, stage } = options;
  if (reason !== undefined && reason.length > LONGEST_REASON)
    throw new Failure(`the reason has more than ${LONGEST_REASON} characters`, 'write a shorter one');
  if (stage !== undefined) stageOf(project, stage);
  const resolutions = stage === undefined ? allStages(project, world) : stageInAllScopes(project, stage, world);
  const results = retireValues(project, variable, resolutions, { reason, world });
  if (results.length === 0)
    throw new Failure(
      `${variable} has no value here${stage === undefined ? '' : ` in ${stage}`}`,
      'retire it where its present value is, before you change it',
    );
  const retired = results.filter(({ because }) => because === undefined);
  const lines = results.map(({ stage: of, because }) =>
    because === undefined ? `  ${of}  retired` : `  ${of}  not kept: the value ${because}`,
  );
  const next =
    retired.length === 0
      ? 'nothing was recorded: such a value cannot be recognised later'
      : `next: change the value, then commit ${STATE_FOLDER}/history (${count(retired.length, 'value')} retired)`;
  world.stdout.write(`${[`${variable}:`, ...lines, next, ...hiddenHistory(project)].join('\n')}\n`);
  return retired.length === 0 ? EXIT.findings : EXIT.fine;
}
