import { type Bundle, type Contract, isRequired, type Stage, type Variable } from '../../contract/contract.js';
import { belongsTo } from '../../contract/names.js';
import { stagesFor } from '../../contract/scopes.js';
import { stageOfWord } from '../../files/value-files.js';
import { finding } from '../../findings/finding.js';
import type { Resolution } from '../../resolve/resolve.js';
import type { BuildSettings, Fallback } from '../../toolchains/settings.js';
import { type LintContext, type LintFinding, placedAt } from '../model.js';

/** Finds configurations that choose the stage by a variable which `adder with` does not set, and fall back to another stage. */
export function stageSwitchRules(context: LintContext): LintFinding[] {
  const seen = new Set<string>();
  return context.bundles.flatMap(({ bundle }) =>
    unsetFallbacks(context.settings(bundle)).flatMap((fallback): LintFinding[] => {
      const { name, text, at } = fallback;
      const key = `${at.path}:${at.start}`;
      const variable = context.contract.variables.get(name);
      const stages = stagesFor(context.stages, bundle)
        .filter((one) => fallsBack(fallback, context.contract, bundle, one.stage, mayBeSet(variable, one)))
        .map(({ stage }) => stage.name);
      if (stages.length === 0 || seen.has(key)) return [];
      seen.add(key);
      const more = { bundle: bundle.name, ...placedAt(context, at) };
      return [finding('code/fallback', 'stage', { name, text, stages }, more)];
    }),
  );
}

/** Tells whether a stage may have a value. Without a required one, `adder with` stops the build; or the environment may have it. */
function mayBeSet(variable: Variable | undefined, { stage, values }: Resolution): boolean {
  if (!variable) return false;
  const isInEnvironment = stage.layers.some(({ kind }) => kind === 'process');
  return isRequired(variable, stage.name) || values.get(variable.name)?.value !== undefined || isInEnvironment;
}

/** Fallbacks for variables that no configuration or script of the build sets itself. */
export function unsetFallbacks({ fallbacks, assigned }: Pick<BuildSettings, 'fallbacks' | 'assigned'>): Fallback[] {
  return fallbacks.filter(({ name }) => !assigned.some(({ read }) => read === name));
}

/** Words that tools and teams use for stages. */
const usualStages: readonly string[] = ['development', 'dev', 'local', 'test', 'staging', 'production', 'prod'];

/** Names of variables that choose a stage. Any other name may have such a word for something else: a build number that is `dev`. */
const choosesStage = /ENV|STAGE|MODE|TARGET|PROFILE|CHANNEL|FLAVOU?R|CONFIG|DEPLOY|CONTEXT|TIER/i;

/** Names by which a configuration chooses a stage, as their fallbacks are the words of stages. */
export function stageChoices(settings: Pick<BuildSettings, 'fallbacks' | 'assigned'>, contract: Contract): Set<string> {
  const all = unsetFallbacks(settings).filter(({ name, text }) => isStageWord(name, text, contract));
  return new Set(all.map(({ name }) => name));
}

function isStageWord(name: string, text: string, contract: Contract): boolean {
  return contract.stages.has(text) || (usualStages.includes(text) && choosesStage.test(name));
}

/**
 * Tells whether `adder with STAGE` would build another stage than the one it was asked for.
 * @param mayBeSet whether the stage may have a value of the variable, if the bundle gets it
 */
export function fallsBack(
  { name, text }: Pick<Fallback, 'name' | 'text'>,
  contract: Contract,
  bundle: Bundle,
  stage: Stage,
  mayBeSet: boolean,
): boolean {
  const isRight = [text, stageOfWord(text)].some((word) => word === stage.name || word === stage.buildAs);
  if (!isStageWord(name, text, contract) || isRight || name.startsWith('ADDER_') || contract.passes.includes(name))
    return false;
  if (name === 'NODE_ENV' && stage.buildAs) return false;
  const variable = contract.variables.get(name);
  return !variable || variable.reach === 'server' || !belongsTo(bundle, variable) || !mayBeSet;
}
