import type { Bundle, Contract, Stage } from '../../contract/contract.js';
import { belongsTo } from '../../contract/names.js';
import { finding } from '../../findings/finding.js';
import type { Resolution } from '../../resolve/resolve.js';
import type { BuildSettings, Fallback } from '../../toolchains/settings.js';
import { type LintContext, type LintFinding, placed } from '../model.js';

/** Finds configurations that choose the stage by a variable which `adder with` does not set, and fall back to another stage. */
export function stageSwitchRules(context: LintContext): LintFinding[] {
  const seen = new Set<string>();
  return context.bundles.flatMap(({ bundle }) =>
    unsetFallbacks(context.settings(bundle)).flatMap((fallback): LintFinding[] => {
      const { path, start, end } = fallback.at;
      const key = `${path}:${start}`;
      const file = context.files.get(path);
      const mayBeSet = ({ stage, values }: Resolution) => {
        const { required } = context.contract.variables.get(fallback.name) ?? {};
        const isRequired =
          required !== undefined && required !== false && (required === true || required.includes(stage.name));
        // Without a value, `adder with` stops the build; or the environment may have one.
        return (
          isRequired ||
          values.get(fallback.name)?.value !== undefined ||
          stage.layers.some(({ kind }) => kind === 'process')
        );
      };
      const stages = context.stages
        .filter((one) => fallsBack(fallback, context.contract, bundle, one.stage, mayBeSet(one)))
        .map(({ stage }) => stage.name);
      if (stages.length === 0 || seen.has(key)) return [];
      seen.add(key);
      const { name, text } = fallback;
      const more = {
        bundle: bundle.name,
        ...(file ? placed(context, file, start, end) : { place: { path, inside: [] } }),
      };
      return [finding('code/fallback', 'stage', { name, text, stages }, more)];
    }),
  );
}

/** Fallbacks for variables that no configuration or script of the build sets itself. */
export function unsetFallbacks({ fallbacks, assigned }: Pick<BuildSettings, 'fallbacks' | 'assigned'>): Fallback[] {
  return fallbacks.filter(({ name }) => !assigned.some(({ read }) => read === name));
}

/** Words that tools and teams use for stages. */
const usualStages: readonly string[] = ['development', 'dev', 'local', 'test', 'staging', 'production', 'prod'];

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
  const isStage = contract.stages.has(text) || usualStages.includes(text);
  const isRight = text === stage.name || text === stage.buildAs;
  if (!isStage || isRight || name.startsWith('ADDER_') || contract.passes.includes(name)) return false;
  if (name === 'NODE_ENV' && stage.buildAs) return false;
  const variable = contract.variables.get(name);
  return !variable || variable.reach === 'server' || !belongsTo(bundle, variable) || !mayBeSet;
}
