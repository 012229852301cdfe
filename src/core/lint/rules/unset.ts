import { stagesFor } from '../../contract/scopes.js';
import { finding } from '../../findings/finding.js';
import type { Read } from '../../reads/read.js';
import type { Resolution } from '../../resolve/resolve.js';
import { ships } from '../../resolve/value-rules.js';
import { isGenerated } from '../../text/generated.js';
import { isSlip } from '../../text/nearest.js';
import { isReadLate } from '../../toolchains/read-from.js';
import type { BundleCode, LintContext, LintFinding } from '../model.js';
import { placed, shipsAsItIs } from '../model.js';
import { Names } from '../names.js';

/** Reads of public variables that code needs, where stages have no value and by the contract need none. */
export function unsetRules(context: LintContext): LintFinding[] {
  const names = [...context.contract.variables.values()].filter(({ reach }) => reach === 'public');
  return context.bundles.flatMap((code) => {
    const stages = stagesFor(context.stages, code.bundle);
    const unset = new Map(names.map(({ name }) => [name, stagesWithout(stages, name)]));
    return readsOf(context, code, { unset, count: stages.length });
  });
}

/** The stages that ship and have no value, or all if none has one. A stage that requires one is an error elsewhere. */
function stagesWithout(stages: readonly Resolution[], name: string): string[] {
  const without = stages.filter(({ values }) => values.get(name)?.state === 'optional').map(({ stage }) => stage.name);
  return without.length === stages.length ? without : without.filter(ships);
}

/** @param count of the bundle's stages */
function readsOf(
  context: LintContext,
  code: BundleCode,
  { unset, count }: { unset: ReadonlyMap<string, readonly string[]>; count: number },
): LintFinding[] {
  const { bundle } = code;
  const names = new Names(context.contract, bundle, context.settings(bundle));
  const others = [...context.contract.variables.keys()].filter((name) => !unset.get(name)?.length);
  return [...code.shipped.keys()].flatMap((path) => {
    const file = shipsAsItIs(context, code, path) ? undefined : context.files.get(path);
    // A generated module gives what is missing as undefined, with that type.
    if (file && isGenerated(file.text)) return [];
    return (file?.reads ?? []).flatMap((read): LintFinding[] => {
      if (!file || read.name === undefined || !needsValue(read)) return [];
      const meaning = names.meaningOf(read.name, read.object);
      if (meaning.kind !== 'public') return [];
      const variable = meaning.variable.name;
      const stages = unset.get(variable) ?? [];
      if (stages.length === 0) return [];
      const near = others.filter((name) => isSlip(variable, name));
      // Code that goes on without the value may still have its name wrong.
      if (near.length === 0 && read.goesOn === 'chained') return [];
      const at = placed(context, file, read.nameStart, read.nameEnd);
      const more = { variable, bundle: bundle.name, ...at };
      return stages.length === count
        ? [finding('code/unset', 'nowhere', { variable, near }, more)]
        : [finding('code/unset', 'stages', { variable, stages }, more)];
    });
  });
}

/** Tells whether code uses the value, and neither tests it nor has another for it. */
function needsValue({ kind, object, fallback, goesOn }: Read): boolean {
  if (/^(in|assigned|schema|lookup|whole|spread)$/.test(kind) || isReadLate(object)) return false;
  return !fallback && goesOn !== 'tested';
}
