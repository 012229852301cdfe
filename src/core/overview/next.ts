import { count } from '../text/display.js';
import { joinWords, someWords } from '../text/nearest.js';
import type { CheckOverview, Overview, Step } from './overview.js';

/** A project, as far as the next command depends on it. */
export interface Standing extends Pick<Overview, 'stages' | 'bundles' | 'checks'> {
  /** Stages that ship, by name. */
  shipping: ReadonlySet<string>;
  /** Words of the command that builds each bundle, as a shell takes them; absent if the contract has none. */
  builds: ReadonlyMap<string, string>;
}

/**
 * The command that comes next: first values that are not there, then builds that are missing or old, then checks of these.
 * Each one is followed by another state, until nothing is left.
 */
export function nextStep(standing: Standing): Step {
  return values(standing) ?? builds(standing) ?? checks(standing) ?? { because: nothingLeft(standing) };
}

function values({ stages }: Standing): Step | undefined {
  const one = stages.find(({ lacking, wrong }) => lacking.length + wrong.length > 0);
  if (!one) return undefined;
  const parts = [
    ...(one.lacking.length > 0 ? [`lacks ${someWords(one.lacking, 3)}`] : []),
    ...(one.wrong.length > 0 ? [`has wrong values of ${someWords(one.wrong, 3)}`] : []),
  ];
  return { command: `adder values ${one.stage}`, because: `${one.stage} ${parts.join(' and ')}` };
}

function builds({ bundles, stages, shipping, builds: commands }: Standing): Step | undefined {
  const usual = stages.findLast(({ stage }) => shipping.has(stage))?.stage ?? stages.at(-1)?.stage;
  const one = bundles.find(({ build }) => build === undefined || build.since.length > 0);
  const stage = one?.build?.stage ?? usual;
  if (!one || stage === undefined) return undefined;
  const named = bundles.length > 1 ? ` --bundle ${one.bundle}` : '';
  const command = commands.get(one.bundle);
  const words = command === undefined ? ' -- COMMAND' : command === '' ? '' : ` -- ${command}`;
  const because = one.build
    ? `since the last build of ${one.bundle}: ${joinWords(one.build.since)}`
    : (one.unread ?? `${one.bundle} was not built through adder yet, so its values are not known to be right`);
  return { command: `adder with ${stage}${named}${words}`, because };
}

function checks({ bundles, checks: all }: Standing): Step | undefined {
  const built = new Set(bundles.flatMap(({ build }) => build?.stage ?? []));
  for (const stage of built) {
    const gate = all.find((one) => one.check === 'gate' && one.stage === stage);
    const command = `adder gate ${stage}`;
    if (!gate) return { command, because: `the build for ${stage} was not checked yet` };
    if (gate.since.length > 0) return { command, because: `since the last gate: ${joinWords(gate.since)}` };
    if (!gate.passed) return { command, because: `the last one did not pass: ${verdictOf(gate)}` };
  }
  return undefined;
}

function nothingLeft({ bundles, checks: all }: Standing): string {
  if (bundles.length === 0) return 'the contract has no bundle: add one under `bundles`, so that builds can be checked';
  const gates = all.filter(({ check }) => check === 'gate').map(({ stage }) => stage);
  return `nothing is left to do: the gate of ${joinWords(gates)} passed, and nothing has changed since`;
}

/** The findings of a check, in a few words. */
export function verdictOf({
  errors,
  warnings,
  answers,
}: Pick<CheckOverview, 'errors' | 'warnings' | 'answers'>): string {
  const open = Object.values(answers ?? {}).filter((answer) => answer === 'not known').length;
  const parts = [
    ...(errors > 0 ? [count(errors, 'error')] : []),
    ...(warnings > 0 ? [count(warnings, 'warning')] : []),
    ...(open > 0 ? [`${count(open, 'answer')} not known`] : []),
  ];
  return parts.length > 0 ? joinWords(parts) : 'no problems';
}
