import type { Bundle } from '../../contract/contract.js';
import { prefixOf } from '../../contract/names.js';
import { type Origin, SOME } from '../../evaluate/value.js';
import { finding } from '../../findings/finding.js';
import { toolchainOf } from '../../toolchains/index.js';
import { askedPasses } from '../../toolchains/queried.js';
import type { Pass } from '../../toolchains/settings.js';
import { type LintContext, type LintFinding, placedAt } from '../model.js';

/** Finds values that a build's configuration gives to browser code although the contract forbids it. */
export function passedRules(context: LintContext): LintFinding[] {
  const browsers = context.bundles.filter(({ bundle }) => bundle.runs !== 'server');
  return browsers.flatMap(({ bundle }) => {
    const { passes, assigned } = context.settings(bundle);
    const exposed = assigned.filter(({ read }) => prefixOf(bundle, read) !== undefined);
    const all = [...askedPasses(toolchainOf(bundle), passes, context.files, bundle.code), ...exposed];
    const forPart = all.find(({ carries }) => carries.has(SOME));
    return [
      ...(forPart ? [passedPart(context, bundle, forPart)] : []),
      ...all.flatMap((pass) => [...pass.carries].flatMap(([name, at]) => forbidden(context, bundle, pass, name, at))),
    ];
  });
}

/** The finding for values that a configuration takes from a text: one for a bundle, as only a build knows them. */
function passedPart(context: LintContext, bundle: Bundle, { at }: Pass): LintFinding {
  const more = { bundle: bundle.name, ...placedAt(context, at), level: 'warning' as const };
  return finding('code/whole-object', 'passed-part', { bundle: bundle.name }, more);
}

/** @param name of a variable; with `*` at its end, all that begin so */
function forbidden(context: LintContext, bundle: Bundle, pass: Pass, name: string, at: Origin): LintFinding[] {
  // The whole environment is often loaded far from the place that passes it.
  const more = { bundle: bundle.name, ...placedAt(context, name === '*' ? pass.at : at) };
  const about = { read: pass.read, bundle: bundle.name };
  if (name === '*') return [finding('code/whole-object', 'passed', about, { ...more, level: 'error' })];
  const variables = [...context.contract.variables.values()].filter((one) =>
    name.endsWith('*') ? one.name.startsWith(name.slice(0, -1)) : one.name === name,
  );
  return variables
    .filter(({ reach }) => reach !== 'public')
    .map(({ name: variable, reach }) => finding('code/server-read', 'passed', { ...about, variable, reach }, more));
}
