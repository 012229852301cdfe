import type { Coverage } from '../findings/check.js';
import type { TrialStatement } from '../findings/trial-statement.js';
import type { KeptTrial } from './kept.js';

/** Makes the statement of a trial. @param notSearched variables that the built files were not searched for */
export function trialStatement(trial: KeptTrial, notSearched: NonNullable<Coverage['notSearched']>): TrialStatement {
  const { rows, asked, coverage } = trial;
  const statement: TrialStatement = {
    ...{ bundle: trial.bundle, builtAt: trial.madeAt },
    ...(trial.commit !== undefined && !trial.isChanged && { commit: trial.commit }),
    ...{ keptIn: [], letOut: [], unsure: [], notSearched: [] },
  };
  for (const { name, reach, arrivesIn, isUnmarked, setIn } of rows) {
    if (reach === undefined || reach === 'public') continue;
    const at = asked.find((one) => one.name === name)?.at[0];
    const unsure = (because: string) => statement.unsure.push({ name, because });
    if (arrivesIn.some(({ audience }) => audience === 'browser')) statement.letOut.push(name);
    else if (isUnmarked || setIn.length === 0) unsure('it has no room for a made-up value');
    else if (at !== undefined)
      unsure(`the build reads it at ${at}, and may have written it in a form that no search knows`);
    else if (coverage.unread.length > 0) unsure('not every file of the trial could be searched');
    else statement.keptIn.push(name);
    const why = notSearched.find(({ variable }) => variable === name);
    if (why) statement.notSearched.push({ name, because: why.because });
  }
  return statement;
}
